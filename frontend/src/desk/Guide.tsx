import { X } from "lucide-react";
import { useEffect, useState } from "react";
import type { Standing, Stills } from "../api/client";
import { untouchedOf } from "../schedules/appearances/uses";
import { useDesk } from "../state/deskStore";
import { Button, IconButton } from "../ui/controls";
import * as t from "../words/texts/desk/Guide";
import { GUIDE, useGuideAsked } from "./showGuide";

const WIDTH = 268;

interface Facts {
  standing: Standing;
  shotId: string;
  stills: Stills["stills"];
  sheet: string;
  lamp: boolean;
}

interface Step {
  title: string;
  words: string;
  /** What it speaks of: the element with this `data-guide`. */
  beside: string;
  done: (facts: Facts) => boolean;
}

/** The way of the job, one hint at a time. */
const STEPS: Step[] = [
  {
    title: t.giveItAFirst,
    words: t.thePartsStillHave,
    beside: "first coat",
    done: ({ standing }) => untouchedOf(standing).length * 2 < Object.keys(standing.worn).length,
  },
  {
    title: t.lookAtTheLight,
    words: t.lightsListsAllThat,
    beside: "sheets",
    done: ({ sheet }) => sheet === "lights",
  },
  {
    title: t.turnOnTheLamp,
    words: t.itTracesTheLight,
    beside: "lamp",
    done: ({ lamp }) => lamp,
  },
  {
    title: t.frameTheShot,
    words: t.dragInThePicture,
    beside: "sheets",
    done: ({ standing, sheet }) => sheet === "shots" || Object.keys(standing.scene.shots).length > 1,
  },
  {
    title: t.takeAStill,
    words: t.itIsTracedTo,
    beside: "still",
    done: ({ stills }) => stills.length > 0,
  },
];

function kept(): number {
  const stored = localStorage.getItem(GUIDE);
  return stored === "closed" ? STEPS.length : Math.max(0, Number(stored) || 0);
}

interface Props {
  standing: Standing;
  shotId: string;
  stills: Stills["stills"];
}

/**
 * Leads a newcomer along the way of the job, beside the thing that each hint speaks of. It never stands in the way:
 * everything works beside it, and one click closes it for good. Opens by itself where parts were given nothing yet.
 */
export function Guide({ standing, shotId, stills }: Props) {
  const sheet = useDesk((state) => state.sheet);
  const lamp = useDesk((state) => state.lamp);
  const asked = useGuideAsked((state) => state.times);
  const [at, setAt] = useState(kept);
  const facts = { standing, shotId, stills, sheet, lamp };
  const fresh = !STEPS[0]!.done(facts);
  const [began, setBegan] = useState(fresh);
  if (fresh && !began) setBegan(true);
  const step = STEPS[at];
  const done = step?.done(facts);
  const open = step !== undefined && (asked > 0 || began);
  useEffect(() => {
    if (asked) setAt(0);
  }, [asked]);
  const go = (next: number) => {
    localStorage.setItem(GUIDE, next >= STEPS.length ? "closed" : String(next));
    setAt(next);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: moves on when a step is done, not when it is shown
  useEffect(() => {
    if (open && done) go(at + 1);
  }, [done]);
  const place = usePlace(open ? step.beside : undefined);
  if (!open || !place) return null;
  return (
    <section
      aria-label={t.guidedStart}
      className="fixed z-30 rounded-md border border-mark bg-sheet p-3 shadow-lg"
      style={{ left: place.x, top: place.y, width: WIDTH }}
    >
      <div className="flex items-start gap-2">
        <b className="flex-1 font-semibold" aria-live="polite">
          {step.title}
        </b>
        <IconButton label={t.closeTheGuide} hint={t.closeItForGood} onClick={() => go(99)}>
          <X size={14} />
        </IconButton>
      </div>
      <p className="mt-0.5 text-ink-2">{step.words}</p>
      <div className="mt-2 flex items-center gap-2">
        <span className="why flex-1">{t.ofWord(at + 1, STEPS.length)}</span>
        {at > 0 && (
          <Button look="text" onClick={() => go(at - 1)}>
            {t.back}
          </Button>
        )}
        <Button look="mark" onClick={() => go(at + 1)}>
          {at + 1 < STEPS.length ? t.next : t.done}
        </Button>
      </div>
    </section>
  );
}

/** Where a hint has room beside what it speaks of, followed while it is shown. */
function usePlace(name: string | undefined) {
  const [place, setPlace] = useState<{ x: number; y: number }>();
  useEffect(() => {
    if (!name) return;
    const look = () => {
      const at = (place: string) => {
        const found = document.querySelector(`[data-guide="${place}"]`)?.getBoundingClientRect();
        return found?.width ? found : undefined;
      };
      // What is not there, as on another schedule, is spoken of beside the schedules; and of a picture alone, nothing.
      const box = at(name) ?? at("sheets");
      if (!box) return setPlace(undefined);
      // Where there is room it stands at the right, so that what it speaks of stays free.
      const right = box.right + 12;
      const fits = right + WIDTH < window.innerWidth / 2 + WIDTH;
      const x = fits ? right : Math.max(8, Math.min(box.left, window.innerWidth - WIDTH - 8));
      const y = fits ? box.top : box.bottom + 8;
      setPlace((now) => (now?.x === x && now.y === y ? now : { x, y }));
    };
    look();
    const again = setInterval(look, 500);
    return () => clearInterval(again);
  }, [name]);
  return place;
}
