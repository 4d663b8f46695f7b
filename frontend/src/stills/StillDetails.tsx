import { useEffect, useState } from "react";
import { useLocation } from "wouter";
import type { Standing, StillLine } from "../api/client";
import { LAYER_GROUPS, QUALITIES, SAMPLES } from "../api/generated/facts";
import { useAct } from "../api/queries";
import {
  FORMS,
  type Form,
  fileOf,
  type LayerGroup,
  markStill,
  openStill,
  takeAgain,
  traceStillOn,
  useChanges,
} from "../api/stills";
import { toast } from "../api/toast";
import { StillFacts, StillLights } from "../drawer/StillFacts";
import { Button, Check, Choice, NumberField } from "../ui/controls";
import { inOwnForm } from "../words/length";
import * as t from "../words/texts/stills/StillDetails";
import { Steps } from "./Steps";

const FINER = QUALITIES.map((name) => [name, SAMPLES[name]] as const);

interface Props {
  reviewId: string;
  standing: Standing;
  still: StillLine;
}

/** All about the selected still: facts, what has changed since, a note, files, and the scene as it was. */
export function StillDetails({ reviewId, standing, still }: Props) {
  const act = useAct(["stills", reviewId]);
  const [, go] = useLocation();
  const ended = still.state === "done";
  const changes = useChanges(still.id, standing.seq, ended && !still.current).data ?? [];
  return (
    <>
      <StillFacts reviewId={reviewId} still={still} alone={false} />
      {ended && !still.current && (
        <section aria-label={t.changedSince} className="flex flex-col gap-1.5">
          <span className="cap">{t.changedSince}</span>
          <ul className="flex list-disc flex-col gap-0.5 pl-4">
            {changes.map((words) => (
              <li key={words}>{inOwnForm(words)}</li>
            ))}
            {changes.length === 0 && <li className="list-none -ml-4 text-ink-2">{t.notKnownForThis}</li>}
          </ul>
          {standing.scene.shots[still.shot_id] && (
            <Button
              look="mark"
              className="self-start"
              onClick={() => act(() => takeAgain(reviewId, still)).catch(() => undefined)}
            >
              {t.takeAgain}
            </Button>
          )}
        </section>
      )}
      {still.can_go_on && FINER.some(([, samples]) => samples > still.samples) && (
        <section aria-label={t.finer} className="flex flex-col gap-1.5">
          <span className="cap">{t.traceOnFromWhere}</span>
          <div className="flex gap-2">
            {FINER.filter(([, samples]) => samples > still.samples).map(([quality, samples]) => (
              <Button
                key={quality}
                onClick={() => act(() => traceStillOn(still.id, quality)).catch(() => undefined)}
              >
                {t.toSamples(quality, samples)}
              </Button>
            ))}
          </div>
        </section>
      )}
      {!ended && (
        <div className="flex flex-wrap gap-2">
          <Steps stills={[still]} reviewId={reviewId} />
        </div>
      )}
      {ended && <Files still={still} />}
      <Note key={still.id} still={still} onCommit={(note) => act(() => markStill(still.id, { note }))} />
      {ended && (
        <div className="rounded-sm border border-rule bg-white px-2.5 py-[7px] text-[12px]">
          <Button
            look="text"
            onClick={async () => {
              try {
                const made = await openStill(still.id);
                go(`/reviews/${made.id}`);
                toast(t.thisIsTheScene);
              } catch (problem) {
                toast.error((problem as Error).message);
              }
            }}
          >
            {t.openAsAScene}
          </Button>
          {t.aNewReviewAs}
        </div>
      )}
      {still.light_kept && <StillLights key={still.id} reviewId={reviewId} still={still} />}
    </>
  );
}

function Note({ still, onCommit }: { still: StillLine; onCommit: (note: string) => void }) {
  const [draft, setDraft] = useState(still.note);
  useEffect(() => setDraft(still.note), [still.note]);
  return (
    <label className="flex flex-col gap-1.5">
      <span className="cap">{t.note}</span>
      <textarea
        rows={2}
        maxLength={500}
        placeholder={t.whatItIsFor}
        className="resize-y rounded-sm border border-rule-strong bg-white px-2 py-1"
        value={draft}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={() => draft !== still.note && onCommit(draft)}
        onKeyDown={(event) => event.stopPropagation()}
      />
    </label>
  );
}

const LOSSY: ReadonlySet<Form> = new Set(["jpeg", "webp"]);

const GROUP_WORDS: Record<LayerGroup, string> = {
  raw: t.lightWithItsNoise,
  lights: t.eachLampOnItsOwn,
  kinds: t.lightByKind,
  surface: t.albedoAndNormal,
  seen: t.depthPositionNormals,
};

/** One finished still in any of the forms. */
function Files({ still }: { still: StillLine }) {
  const [form, setForm] = useState<Form>("png");
  const [quality, setQuality] = useState(92);
  const [groups, setGroups] = useState<ReadonlySet<LayerGroup>>(new Set(LAYER_GROUPS));
  const [half, setHalf] = useState(false);
  const forms = still.developable ? FORMS : FORMS.slice(0, 1);
  return (
    <section aria-label={t.file} className="flex flex-col gap-2">
      <span className="cap">{t.file}</span>
      <Choice label={t.format} value={form} choices={forms} onChange={(name) => setForm(name as Form)} />
      {LOSSY.has(form) && (
        <div className="flex items-center justify-between">
          <span>{t.quality}</span>
          <div className="w-16">
            <NumberField
              label={t.qualityOfTheFile}
              value={quality}
              onCommit={(value) => setQuality(Math.min(100, Math.max(1, Math.round(value))))}
            />
          </div>
        </div>
      )}
      {form === "exr" && (
        <fieldset className="flex flex-col rounded-sm border border-rule px-2.5 pb-1">
          <legend className="why px-1">{t.layersBesideThe}</legend>
          {LAYER_GROUPS.filter((group) => group !== "kinds" || still.by_kind).map((group) => (
            <Check
              key={group}
              label={GROUP_WORDS[group]}
              checked={groups.has(group)}
              onChange={(on) => {
                const next = new Set(groups);
                if (on) next.add(group);
                else next.delete(group);
                setGroups(next);
              }}
            />
          ))}
          <Check label={t.halfNumbers} checked={half} onChange={setHalf} />
        </fieldset>
      )}
      <a
        className="flex h-8 shrink-0 items-center justify-center rounded-md border border-mark bg-white font-medium text-mark hover:bg-mark-soft"
        href={fileOf(still.id, form, quality, { groups, half })}
        download
      >
        {t.download}
      </a>
    </section>
  );
}
