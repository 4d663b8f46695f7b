import type { AssemblyActions } from "../api/assembly";
import type { Check, Edit, Standing } from "../api/client";
import { CLEAN } from "../api/generated/facts";
import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { Button } from "../ui/controls";
import { inOwnForm } from "../words/length";
import { percent } from "../words/numbers";
import * as t from "../words/texts/desk/PreflightList";

interface Props {
  checks: readonly Check[];
  shotId: string;
  standing: Standing;
  assembly: AssemblyActions;
  edit: (change: Edit) => void;
}

/** What one may want to mend in the shot before a still is taken: each with its number, where it is, and a fix. */
export function PreflightList({ checks, shotId, standing, assembly, edit }: Props) {
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
    <>
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
    </>
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
