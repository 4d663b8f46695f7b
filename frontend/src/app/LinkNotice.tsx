import { useLink } from "../api/events";

const WORDS = {
  lost: "The connection to Usual Lamp is lost. Trying again…",
  "database away": "The database is starting again. Your work is safe; changes wait for a moment.",
  "signed out": "You are signed out. Open the address that ./lamp up printed.",
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
