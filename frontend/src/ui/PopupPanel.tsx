import { Popover } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  label: string;
  className?: string;
  children: ReactNode;
}

/** What opens below a button, at its right end; goes into a `Popover.Root` beside the trigger. */
export function PopupPanel({ label, className = "", children }: Props) {
  return (
    <Popover.Portal>
      <Popover.Content
        align="end"
        sideOffset={6}
        collisionPadding={12}
        aria-label={label}
        className={`z-40 flex max-h-[70vh] flex-col overflow-y-auto rounded-md border border-rule-strong bg-sheet shadow-lg ${className}`}
      >
        {children}
      </Popover.Content>
    </Popover.Portal>
  );
}
