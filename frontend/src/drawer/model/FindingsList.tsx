import type { Finding } from "../../api/assembly";
import { useFindings } from "../../api/assembly";
import type { Model, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import type { PartActions } from "../../state/partActions";
import { countParts, listNames } from "../../state/rows";
import { Button } from "../../ui/controls";
import * as t from "../../words/texts/drawer/model/FindingsList";
import { Section } from "./Section";

interface Props {
  reviewId: string;
  model: Model;
  standing: Standing;
  actions: PartActions;
}

/** What the picture does not need, each with its reason and its one-step fix. */
export function FindingsList({ reviewId, model, standing, actions }: Props) {
  const found = useFindings(reviewId, standing.seq);
  const findings = found.data?.findings ?? [];
  const open = findings.reduce((sum, finding) => sum + finding.uids.length, 0);
  const fact = found.data?.looking ? t.looking : findings.length ? countParts(open) : t.nothingFound;
  return (
    <Section title={t.findings} fact={fact} open>
      {found.isError && <p className="text-stop">{found.error.message}</p>}
      {findings.map((finding) => (
        <OneFinding key={finding.kind} {...{ finding, model, actions }} />
      ))}
      {findings.length === 0 && !found.data?.looking && <p className="why">{t.everyPartThatIs}</p>}
      {found.data?.looking && <p className="why">{t.lookingWhichPartsCan}</p>}
    </Section>
  );
}

function OneFinding({ finding, model, actions }: { finding: Finding; model: Model; actions: PartActions }) {
  const suppress = finding.fix === "suppress";
  return (
    <div className="rounded-sm border border-rule bg-white px-2.5 py-2" data-finding={finding.kind}>
      <div className="flex items-baseline justify-between gap-2">
        <b className="font-semibold">{finding.title}</b>
        {finding.uids.length > 0 && <span className="figures">{finding.uids.length}</span>}
      </div>
      <p className="why">{finding.reason}</p>
      {finding.uids.length > 0 ? (
        <p className="mt-0.5 text-[12px]">{listNames(model, finding.uids)}</p>
      ) : (
        <ul className="mt-0.5 max-h-28 overflow-y-auto text-[12px]">
          {(finding.notes ?? []).map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      )}
      {finding.fix && (
        <div className="mt-1.5 flex gap-2">
          <Button look="mark" onClick={() => actions.set(finding.uids, suppress ? "suppressed" : null)}>
            {(suppress ? t.suppress : t.bringBack)(finding.uids.length === 1)}
          </Button>
          <Button
            onClick={() => useDesk.setState({ chosen: new Set(finding.uids), faded: suppress })}
            title={t.selectThemWithThe}
          >
            {t.showWhich}
          </Button>
        </div>
      )}
    </div>
  );
}
