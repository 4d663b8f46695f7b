import { useEffect } from "react";
import { Toaster } from "sonner";
import { notesShow } from "../api/toast";

/** What is said at the foot of the page. */
export function Notes() {
  useEffect(notesShow, []);
  return (
    <Toaster
      position="bottom-center"
      offset={54}
      toastOptions={{
        className: "!rounded-md !border-rule-strong !bg-sheet !font-sans !text-[13px] !text-ink !shadow-lg",
        actionButtonStyle: { background: "var(--color-mark)" },
      }}
    />
  );
}
