import type { StillLine } from "../api/client";
import { actions, useAct } from "../api/queries";
import { endStill, putStillFirst } from "../api/stills";
import { Button } from "../ui/controls";
import * as t from "../words/texts/stills/Steps";

interface Step {
  label: string;
  hint?: string;
  from: StillLine["state"][];
  fits?: (still: StillLine) => boolean;
  run: (id: string) => Promise<unknown>;
}

const STEPS: Step[] = [
  { label: t.traceNext, from: ["queued", "paused"], run: putStillFirst },
  { label: t.pause, from: ["running", "queued"], run: actions.pause },
  { label: t.resume, from: ["paused", "stopped", "failed"], run: actions.resume },
  {
    label: t.finishNow,
    hint: t.withTheSamples,
    from: ["running", "queued", "paused", "stopped"],
    fits: (still) => still.samples_done > 0,
    run: endStill,
  },
  { label: t.stop, from: ["running", "queued", "paused"], run: actions.stop },
];

/** Buttons for what can be done with stills that are not finished: each with those among them that it fits. */
export function Steps({ stills, reviewId, look }: { stills: StillLine[]; reviewId: string; look?: "mark" }) {
  const act = useAct(["stills", reviewId]);
  return STEPS.map(({ label, hint, from, fits, run }) => {
    const fitting = stills.filter((still) => from.includes(still.state) && (fits?.(still) ?? true));
    // The one that is put first last is traced next: the order among them stays.
    const inTurn = run === putStillFirst ? fitting.toReversed() : fitting;
    const each = async () => {
      for (const still of inTurn) await run(still.id);
    };
    return (
      fitting.length > 0 && (
        <Button key={label} look={look} title={hint} onClick={() => act(each).catch(() => undefined)}>
          {label}
        </Button>
      )
    );
  });
}
