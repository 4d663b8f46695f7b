import type { SixView } from "../state/camera";
import { Hint } from "../ui/Hint";
import * as t from "../words/texts/viewport/SixViews";

const CROSS: { view: SixView; letter: string; at: string }[] = [
  { view: "top", letter: "T", at: "2 / 1" },
  { view: "left", letter: "L", at: "1 / 2" },
  { view: "front", letter: "F", at: "2 / 2" },
  { view: "right", letter: "R", at: "3 / 2" },
  { view: "back", letter: "B", at: "4 / 2" },
  { view: "under", letter: "U", at: "2 / 3" },
];

/** The six principal views, laid out as on a drawing. */
export function SixViews({ onLook }: { onLook: (view: SixView) => void }) {
  return (
    <div
      className="grid grid-cols-[repeat(4,24px)] grid-rows-[repeat(3,24px)] gap-px"
      role="group"
      aria-label={t.sixViews}
    >
      {CROSS.map(({ view, letter, at }) => (
        <Hint key={view} text={t.lookFromThe(view)} keys={`Alt ${letter}`}>
          <button
            type="button"
            aria-label={view === "under" ? t.lookFromBelow : t.lookFromThe(view)}
            className="cursor-pointer border border-[#8888] bg-sheet/90 font-narrow text-[10px] leading-none font-medium text-ink-2 hover:bg-ink hover:text-white"
            style={{ gridColumn: at.split(" / ")[0], gridRow: at.split(" / ")[1] }}
            onClick={() => onLook(view)}
          >
            {letter}
          </button>
        </Hint>
      ))}
    </div>
  );
}
