import { type ReactNode, useRef } from "react";
import { ACCEPTED } from "../reviews/formats";
import { Button } from "./controls";

interface Props {
  /** Of the hidden field, for those who do not see the button. */
  label: string;
  onFile: (file: File) => void;
  children: ReactNode;
}

/** A button that asks for one CAD file; the same file can be chosen again. */
export function FileButton({ label, onFile, children }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button className="self-start" onClick={() => picker.current?.click()}>
        {children}
      </Button>
      <input
        ref={picker}
        type="file"
        aria-label={label}
        accept={ACCEPTED}
        className="hidden"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) onFile(file);
          event.target.value = "";
        }}
      />
    </>
  );
}
