import { useHistory } from "../api/queries";
import { isOurs } from "../api/steps";
import { oneTabStop } from "../ui/oneTabStop";
import { inOwnForm } from "../words/length";
import * as t from "../words/texts/desk/HistoryList";

interface Props {
  reviewId: string;
  seq: number;
  undo: (to?: number) => void;
  redo: (to?: number) => void;
}

/** The time of today's edits, the day of others. */
function clock(made: string | null): string {
  if (!made) return t.earlier;
  const when = new Date(`${made}Z`);
  const today = when.toDateString() === new Date().toDateString();
  return today
    ? when.toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit" })
    : when.toLocaleDateString(undefined, { day: "numeric", month: "short" });
}

/** Takes the keyboard when its rows come, where the panel around it still has it. */
function listOfEdits(list: HTMLElement | null) {
  if (list?.firstChild && document.activeElement?.contains(list)) list.querySelector("button")?.focus();
  return oneTabStop(list);
}

/** The last edits with their times, to go back or forth by several at once. */
export function HistoryList({ reviewId, seq, undo, redo }: Props) {
  const edits = useHistory(reviewId, seq, true).data?.edits ?? [];
  const standing = edits.filter((edit) => !edit.undone);
  const go = (edit: (typeof edits)[number]) => {
    if (edit.undone) return redo(edit.seq);
    // What came after it is taken back: down to the one that is next newer.
    const newer = standing[standing.indexOf(edit) - 1];
    if (newer) undo(newer.seq);
  };
  return (
    <>
      {edits.length === 0 && <p className="px-3 text-ink-2">{t.nothingWasChangedYet}</p>}
      {edits.length > 0 && (
        <div ref={listOfEdits} className="flex flex-col">
          {edits.map((edit) => {
            const now = edit === standing[0];
            return (
              <button
                key={edit.seq}
                type="button"
                data-row={edit.words}
                aria-disabled={now || undefined}
                aria-current={now || undefined}
                title={now ? undefined : edit.undone ? t.makeItAgainUp : t.goBackToAfter}
                className={`flex cursor-pointer items-baseline gap-3 px-3 py-1 text-left not-aria-disabled:hover:bg-mark-soft aria-disabled:cursor-default ${edit.undone ? "text-ink-3" : ""} ${now ? "font-semibold" : ""}`}
                onClick={() => go(edit)}
              >
                <span className="figures w-12 shrink-0 text-ink-2">{clock(edit.made)}</span>
                <span className="flex-1">{inOwnForm(edit.words) || t.anEdit}</span>
                {!isOurs(edit) && <span className="why shrink-0">{t.otherTab}</span>}
                {now && <span className="why shrink-0">{t.now}</span>}
              </button>
            );
          })}
          {standing.length > 0 && edits.length < 50 && (
            <button
              type="button"
              data-row={t.asItWasImported}
              className="flex cursor-pointer items-baseline gap-3 px-3 py-1 text-left hover:bg-mark-soft"
              title={t.takeEverythingBack}
              onClick={() => undo(standing.at(-1)!.seq)}
            >
              <span className="w-12 shrink-0" />
              {t.asItWasImported}
            </button>
          )}
        </div>
      )}
    </>
  );
}
