import type { StillLine } from "../api/client";
import { actions, useAct } from "../api/queries";
import { eachInTurn, endStill, isFor, putStillFirst, type StillStep } from "../api/stills";
import { Button } from "../ui/controls";
import * as t from "../words/texts/stills/Steps";

const STEPS: { step: StillStep; label: string; hint?: string; run: (id: string) => Promise<unknown> }[] = [
  { step: "first", label: t.traceNext, run: putStillFirst },
  { step: "pause", label: t.pause, run: actions.pause },
  { step: "resume", label: t.resume, run: actions.resume },
  { step: "end", label: t.finishNow, hint: t.withTheSamples, run: endStill },
  { step: "stop", label: t.stop, run: actions.stop },
];

/** Buttons for what can be done with stills that are not finished: each with those among them that it fits. */
export function Steps({ stills, reviewId, look }: { stills: StillLine[]; reviewId: string; look?: "mark" }) {
  const act = useAct(["stills", reviewId]);
  return STEPS.map(({ step, label, hint, run }) => {
    const fitting = stills.filter((still) => isFor(step, still));
    // The one that is put first last is traced next: the order among them stays.
    const inTurn = step === "first" ? fitting.toReversed() : fitting;
    const each = () => eachInTurn(inTurn, run);
    return (
      fitting.length > 0 && (
        <Button key={step} look={look} title={hint} onClick={() => act(each).catch(() => undefined)}>
          {label}
        </Button>
      )
    );
  });
}
