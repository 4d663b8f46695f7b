import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  title: string;
  open: boolean;
  onOpen: (open: boolean) => void;
  /** Of the sheet, in pixels. */
  width: number;
  children: ReactNode;
}

/** A sheet in the middle of the screen that wants an answer, or to be read, before anything else. */
export function Modal({ title, open, onOpen, width, children }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
        <Dialog.Content
          aria-describedby={undefined}
          style={{ width }}
          className="fixed top-1/2 left-1/2 z-50 flex max-h-[86vh] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 flex-col gap-3 overflow-y-auto rounded-md border border-rule-strong bg-sheet p-5 shadow-xl"
        >
          <Dialog.Title className="text-[15px] font-semibold">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
