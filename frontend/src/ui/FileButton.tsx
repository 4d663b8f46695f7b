import { type ReactNode, useRef } from "react";
import { ACCEPTED } from "../api/formats";
import { Button } from "./controls";

interface Props {
  /** Of the hidden field, for those who do not see the button. */
  label: string;
  onFile?: (file: File) => void;
  /** In place of `onFile`, where several may be selected. */
  onFiles?: (files: File[]) => void;
  /** Endings that are offered; CAD files unless it says otherwise. */
  accept?: string;
  className?: string;
  children: ReactNode;
}

/** A button that asks for a file; the same one can be selected again. */
export function FileButton(props: Props) {
  const { label, onFile, onFiles, accept = ACCEPTED, className = "self-start", children } = props;
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
        multiple={onFiles !== undefined}
        className="hidden"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          if (files[0]) onFile?.(files[0]);
          if (files.length > 0) onFiles?.(files);
          event.target.value = "";
        }}
      />
    </>
  );
}
