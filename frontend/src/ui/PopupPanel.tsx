import { Popover } from "radix-ui";
import { type ReactNode, type RefObject, useRef } from "react";

interface Props {
  label: string;
  /** The button that it opens below, at its right end. */
  anchor: RefObject<HTMLElement | null>;
  className?: string;
  onClose: () => void;
  children: ReactNode;
}

/** What opens below a button, see `Popup`. */
export function PopupPanel({ label, anchor, className = "", onClose, children }: Props) {
  /** Something else on the page has the keyboard now. */
  const left = useRef(false);
  return (
    <Popover.Root open onOpenChange={(open) => !open && onClose()}>
      <Popover.Anchor virtualRef={anchor as RefObject<HTMLElement>} />
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          collisionPadding={12}
          aria-label={label}
          onInteractOutside={(event) => {
            // The button closes it by itself.
            if (anchor.current?.contains(event.target as Node)) event.preventDefault();
            else left.current = true;
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (!left.current) anchor.current?.focus();
          }}
          className={`z-40 flex max-h-[70vh] flex-col overflow-y-auto rounded-md border border-rule-strong bg-sheet shadow-lg ${className}`}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
