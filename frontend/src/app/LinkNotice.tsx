import { useLink } from "../api/events";
import * as t from "../words/texts/app/LinkNotice";

const WORDS = {
  lost: t.theConnectionToUsual,
  "database away": t.theDatabaseIsStarting,
  "signed out": t.youAreSignedOut,
};

/** A line over the page while there is something between it and the server. */
export function LinkNotice() {
  const link = useLink();
  if (link === "live") return null;
  return (
    <div
      role="status"
      className="fixed top-[140px] left-1/2 z-50 -translate-x-1/2 rounded-md border border-rule-strong bg-sheet px-3 py-1.5 text-[13px] text-ink shadow-lg"
    >
      {WORDS[link]}
    </div>
  );
}
