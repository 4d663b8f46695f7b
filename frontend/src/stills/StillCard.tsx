import { Star } from "lucide-react";
import { type KeyboardEvent, type MouseEvent, memo, type RefObject, useRef, useState } from "react";
import type { Standing, StillLine } from "../api/client";
import { smallPreviewOf, takenIn, useChanges } from "../api/stills";
import { qualityOf, StateWords } from "../schedules/shots/StillRow";
import { useNear } from "../ui/useNear";
import { inOwnForm } from "../words/length";
import { percent } from "../words/numbers";
import * as t from "../words/texts/stills/StillCard";

interface Props {
  still: StillLine;
  standing: Standing;
  selected: boolean;
  /** Whether Tab comes to it. */
  reached: boolean;
  /** What scrolls. */
  list: RefObject<Element | null>;
  onSelect: (how: { ctrl: boolean; shift: boolean }) => void;
  onOpen: () => void;
  onStar: () => void;
  onKey: (event: KeyboardEvent) => void;
}

/** About as high as a card with all that stands on it, so that the list keeps its place. */
const UNMET = "min-h-[208px]";

/** One still of the contact sheet; empty until the list was scrolled near it, or hundreds would take seconds. */
export const StillCard = memo(function StillCard(props: Props) {
  const { still, standing, selected, reached, list, onSelect, onOpen, onStar, onKey } = props;
  const card = useRef<HTMLDivElement>(null);
  const near = useNear(card, list);
  const stale = !still.current && still.state === "done";
  const [met, setMet] = useState(false);
  if (near && !met) setMet(true);
  // Pictures come first: what has changed is asked for when the card's own is there.
  const [drawn, setDrawn] = useState(false);
  const changes = useChanges(still.id, standing.seq, near && stale && drawn).data;
  const { look, lighting } = takenIn(standing, still);
  const pick = (event: MouseEvent) => {
    onSelect({ ctrl: event.ctrlKey || event.metaKey, shift: event.shiftKey });
  };
  return (
    <div
      ref={card}
      role="option"
      aria-selected={selected}
      tabIndex={reached ? 0 : -1}
      data-still={still.id}
      aria-label={met ? undefined : `${look} · ${lighting}`}
      className={`relative ${met ? "" : UNMET} cursor-default select-none border bg-white outline-offset-2 ${selected ? "border-mark outline-2 outline-mark" : "border-rule-strong hover:border-ink-3"}`}
      onClick={pick}
      onDoubleClick={onOpen}
      onKeyDown={onKey}
    >
      {met && <Face {...{ still, look, lighting, changes, onStar }} onDrawn={() => setDrawn(true)} />}
    </div>
  );
});

interface FaceProps {
  still: StillLine;
  look: string;
  lighting: string;
  changes: string[] | undefined;
  onStar: () => void;
  onDrawn: () => void;
}

/** What stands on a card. */
function Face({ still, look, lighting, changes, onStar, onDrawn }: FaceProps) {
  return (
    <>
      <div className="relative grid aspect-[16/9] place-items-center overflow-hidden bg-mat">
        {still.version > 0 ? (
          <img
            alt=""
            loading="lazy"
            draggable={false}
            className="absolute inset-0 h-full w-full object-contain"
            src={smallPreviewOf(still)}
            onLoad={onDrawn}
            onError={onDrawn}
          />
        ) : (
          <span className="text-[12px] text-ink">
            {still.state === "queued" ? t.waitingForItsTurn : t.noPictureYet}
          </span>
        )}
        {(still.state === "running" || still.state === "queued") && (
          <span className="absolute inset-x-0 bottom-0 h-[3px] bg-rule">
            <span
              className="block h-full bg-mark"
              style={{ width: `${(100 * still.samples_done) / still.samples}%` }}
            />
          </span>
        )}
      </div>
      <div className="px-2 pt-1.5 pb-2">
        <div className="flex items-start gap-1">
          <b className="min-w-0 flex-1 truncate font-semibold" title={`${look} · ${lighting}`}>
            {look || still.name}
            <span className="font-normal text-ink-2"> · {lighting}</span>
          </b>
          <span
            aria-hidden="true"
            data-star={still.starred}
            title={`${still.starred ? t.removeTheStar : t.star} (S)`}
            className="-mr-1 cursor-pointer p-0.5"
            onClick={(event) => {
              event.stopPropagation();
              onStar();
            }}
          >
            <Star
              size={14}
              className={still.starred ? "fill-[#E4931B] text-[#E4931B]" : "text-ink-3 hover:text-ink"}
            />
          </span>
          {still.starred && <span className="sr-only">{t.starred}</span>}
        </div>
        <span className="figures block">
          {still.width} x {still.height} · {qualityOf(still)}
        </span>
        <span className="block">
          <StateWords still={still} />
          {still.state === "done" && still.grain != null && (
            <span className="why ml-1">{t.noise(percent(still.grain, 1))}</span>
          )}
        </span>
        {changes && changes.length > 0 && (
          <span className="why line-clamp-2" title={inOwnForm(changes.join("\n"))}>
            {inOwnForm(changes.join("; "))}
          </span>
        )}
        {still.note && (
          <span className="mt-0.5 block truncate text-[12px] italic" title={still.note}>
            {still.note}
          </span>
        )}
      </div>
    </>
  );
}
