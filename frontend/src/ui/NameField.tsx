import { useState } from "react";

interface Props {
  label: string;
  value: string;
  className: string;
  autoFocus?: boolean;
  /** Called with a name that is another and not empty. */
  onCommit: (name: string) => void;
  /** Called when the field is left, whether or not the name changed. */
  onLeave?: () => void;
}

/** A name of at most 60 letters; Enter or leaving it commits, Escape takes it back. */
export function NameField({ label, value, className, autoFocus, onCommit, onLeave }: Props) {
  const [draft, setDraft] = useState<string>();
  const commit = () => {
    const name = draft?.trim();
    setDraft(undefined);
    if (name && name !== value) onCommit(name.slice(0, 60));
    onLeave?.();
  };
  return (
    <input
      aria-label={label}
      // biome-ignore lint/a11y/noAutofocus: only where it takes the place of what was clicked
      autoFocus={autoFocus}
      className={className}
      value={draft ?? value}
      maxLength={60}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") {
          setDraft(undefined);
          onLeave?.();
        }
        event.stopPropagation();
      }}
    />
  );
}
