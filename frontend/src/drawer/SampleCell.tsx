import { X } from "lucide-react";
import type { Appearance, Sample } from "../api/client";
import { useDesk } from "../state/deskStore";
import { countParts } from "../state/rows";
import { Hint } from "../ui/Hint";
import * as t from "../words/texts/drawer/SampleCell";
import { Plate, PlateNote } from "./Plate";

interface Props {
  sample: Sample;
  large: boolean;
  /** Parts that wear it. */
  used?: number;
  onGive: (keys: { shiftKey: boolean; altKey: boolean }) => void;
  onPoint: (on: boolean) => void;
  onTakeOff: () => void;
}

/** One sample of the shelf: a click gives it, a drag carries it; kept ones can be taken off the shelf. */
export function SampleCell({ sample, large, used, onGive, onPoint, onTakeOff }: Props) {
  const { name } = sample.appearance;
  return (
    <div data-row={name} className="group relative">
      <Hint
        side="left"
        text={<PlateNote sample={sample} used={used === undefined ? undefined : countParts(used)} />}
      >
        <button
          type="button"
          aria-label={t.give(name)}
          className="relative block aspect-square w-full cursor-pointer overflow-hidden rounded-sm border border-rule bg-sunk hover:border-mark"
          onClick={onGive}
          onPointerDown={(event) => startDrag(event, sample.appearance)}
          onPointerEnter={() => onPoint(true)}
          onFocus={() => onPoint(true)}
          onBlur={() => onPoint(false)}
        >
          <Plate sample={sample} side={large ? 192 : 96} />
          {used !== undefined && (
            <span
              className="absolute right-1 bottom-1 h-[6px] w-[6px] rounded-full bg-ink"
              aria-hidden="true"
            />
          )}
        </button>
      </Hint>
      {sample.kept && (
        <button
          type="button"
          aria-label={t.takeOffTheShelf(name)}
          className="absolute top-0.5 right-0.5 grid h-4 w-4 cursor-pointer place-items-center rounded-sm bg-sheet/85 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100"
          onClick={onTakeOff}
        >
          <X size={11} />
        </button>
      )}
    </div>
  );
}

const FAR_ENOUGH = 6;

/** A press that moves becomes a drag; one that stays where it is remains a click. */
function startDrag(event: React.PointerEvent, appearance: Appearance) {
  if (event.button !== 0) return;
  const { clientX: x, clientY: y } = event;
  const stop = new AbortController();
  const options = { signal: stop.signal };
  window.addEventListener(
    "pointermove",
    (move) => {
      if (Math.hypot(move.clientX - x, move.clientY - y) < FAR_ENOUGH) return;
      stop.abort();
      useDesk.setState({ dragged: appearance });
    },
    options,
  );
  window.addEventListener("pointerup", () => stop.abort(), options);
}
