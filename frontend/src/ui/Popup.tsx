import { Slot } from "radix-ui";
import { type ReactElement, type ReactNode, Suspense, useRef } from "react";
import { Hint } from "./Hint";
import { later } from "./later";

const PopupPanel = later(() => import("./PopupPanel"), "PopupPanel");

interface Props {
  /** What the panel is called. */
  label: string;
  /** What resting on the button tells. */
  hint?: string;
  button: ReactElement;
  open: boolean;
  onOpen: (open: boolean) => void;
  /** Of the panel. */
  className?: string;
  /** What is in the panel; its code may come later. */
  children: ReactNode;
}

/** A button, and the panel that opens below it. The code of panels is fetched when the first one is opened. */
export function Popup({ label, hint, button, open, onOpen, className, children }: Props) {
  const anchor = useRef<HTMLElement>(null);
  const trigger = (
    <Slot.Root ref={anchor} aria-haspopup="dialog" aria-expanded={open} onClick={() => onOpen(!open)}>
      {button}
    </Slot.Root>
  );
  return (
    <>
      {hint ? <Hint text={hint}>{trigger}</Hint> : trigger}
      {open && (
        <Suspense>
          <PopupPanel {...{ label, anchor, className }} onClose={() => onOpen(false)}>
            {children}
          </PopupPanel>
        </Suspense>
      )}
    </>
  );
}
