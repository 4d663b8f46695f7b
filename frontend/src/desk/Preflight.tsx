import { Popover } from "radix-ui";
import { usePreflight } from "../api/appearance";
import type { AssemblyActions } from "../api/assembly";
import type { Check, Edit, Standing } from "../api/client";
import { CLEAN } from "../api/generated/facts";
import { useStills } from "../api/queries";
import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { Button } from "../ui/controls";
import { PopupPanel } from "../ui/PopupPanel";
import { inOwnForm } from "../words/length";
import { percent } from "../words/numbers";
import * as t from "../words/texts/desk/Preflight";

interface Props {
  reviewId: string;
  shotId: string;
  standing: Standing;
  assembly: AssemblyActions;
  /** An edit is on its way: what it changes is not known there yet. */
  saving: boolean;
  edit: (change: Edit) => void;
}

/** What one may want to mend in the shot before a still is taken: each with its number, where it is, and a fix. */
export function Preflight({ reviewId, shotId, standing, assembly, saving, edit }: Props) {
  const metered = useDesk((state) => state.frame?.metered);
  const found = usePreflight(
    reviewId,
    shotId,
    standing.seq,
    metered === undefined ? undefined : +metered.toFixed(1),
    useStills(reviewId).data?.find((still) => still.shot_id === shotId && still.state === "done")?.id,
    !saving,
  );
  const checks = found.data?.checks ?? [];
  const open = checks.filter((check) => !check.silenced);
  const quiet = checks.length - open.length;
  const mend = (check: Check) => {
    if (check.fix?.edit) edit(check.fix.edit);
    if (check.fix?.action === "first coat") useDesk.setState({ firstCoat: true });
    if (check.fix?.action === "tessellate") assembly.tessellate({ uids: check.uids, shot: shotId });
    if (check.fix?.action === "noise") {
      useDesk.setState({ stillNoise: 100 * CLEAN });
      toast(t.theNextStillsAre(percent(CLEAN, 0)));
    }
  };
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          className={`h-7 cursor-pointer rounded-sm border px-2 whitespace-nowrap ${open.length ? "border-warn text-warn" : "border-rule-strong text-ink-2"}`}
        >
          {found.data ? (open.length ? t.toCheck(open.length) : t.ready) : t.checking}
        </button>
      </Popover.Trigger>
      <PopupPanel label={t.checksBeforeAStill} className="w-[400px] gap-2 p-3">
        <b className="font-semibold">{t.beforeAStillOf(standing.scene.shots[shotId]?.name ?? t.thisShot)}</b>
        {open.length === 0 && <p className="text-ink-2">{t.nothingToMendWas}</p>}
        {open.map((check) => (
          <OneCheck
            key={`${check.kind} ${check.title}`}
            {...{ check, onFix: () => mend(check) }}
            onSilence={() => edit({ kind: "silence_checks", checks: { [check.kind]: true } })}
          />
        ))}
        {quiet > 0 && (
          <p className="why flex items-center gap-2">
            <span className="flex-1">{t.silencedInThisReview(quiet)}</span>
            <Button
              look="text"
              onClick={() =>
                edit({
                  kind: "silence_checks",
                  checks: Object.fromEntries(standing.scene.silenced.map((kind) => [kind, false])),
                })
              }
            >
              {t.showThemAgain}
            </Button>
          </p>
        )}
      </PopupPanel>
    </Popover.Root>
  );
}

function OneCheck({ check, onFix, onSilence }: { check: Check; onFix: () => void; onSilence: () => void }) {
  return (
    <div className="rounded-sm border border-rule bg-white px-2.5 py-2" data-check={check.kind}>
      <b className="font-semibold">{inOwnForm(check.title)}</b>
      <p className="why">{inOwnForm(check.number)}</p>
      <div className="mt-1.5 flex gap-2">
        {check.fix && (
          <Button look="mark" onClick={onFix}>
            {inOwnForm(check.fix.words)}
          </Button>
        )}
        {check.uids.length > 0 && (
          <Button
            title={t.selectThemWithThe}
            onClick={() =>
              useDesk.setState({ chosen: new Set(check.uids), faces: [], faded: true, sheet: "parts" })
            }
          >
            {t.show}
          </Button>
        )}
        <span className="flex-1" />
        <Button look="text" title={t.doNotTellThis} onClick={onSilence}>
          {t.silence}
        </Button>
      </div>
    </div>
  );
}
