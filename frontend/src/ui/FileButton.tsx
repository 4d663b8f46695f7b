import { type ReactNode, useRef } from "react";
import { ACCEPTED } from "../api/formats";
import { Button } from "./controls";

interface Props {
  /** Of the hidden field, for those who do not see the button. */
  label: string;
  onFile: (file: File) => void;
  /** Endings that are offered; CAD files unless it says otherwise. */
  accept?: string;
  className?: string;
  children: ReactNode;
}

/** A button that asks for one file; the same file can be chosen again. */
export function FileButton({ label, onFile, accept = ACCEPTED, className = "self-start", children }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button className={`shrink-0 ${className}`} onClick={() => picker.current?.click()}>
        {children}
      </Button>
      <input
        ref={picker}
        type="file"
        aria-label={label}
        accept={accept}
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
