import { useState } from "react";
import { type AssemblyActions, type ReportDecal, type ReportPair, useReport } from "../api/assembly";
import type { Decal } from "../api/client";
import { countParts } from "../state/rows";
import { Button } from "../ui/controls";
import { Modal } from "../ui/Modal";
import { Sketch } from "../viewport/SketchPicture";
import { inOwnForm, length } from "../words/length";
import { percent } from "../words/numbers";
import * as t from "../words/texts/desk/RevisionDialog";

interface Props {
  intake: string;
  open: boolean;
  onOpen: (open: boolean) => void;
  assembly: AssemblyActions;
}

type Kind = ReportPair["kind"];
/** In the order in which they want to be looked at, each with its colour and what it means. */
const KINDS: [Kind, string, string][] = [
  ["uncertain", "var(--color-warn)", t.mightBeTheSame],
  ["gone", "var(--color-stop)", t.inThePreviousRevision],
  ["new", "var(--color-mark)", t.notInThePrevious],
  ["changed shape", "var(--color-lamp)", t.theSamePartWith],
  ["moved", "var(--color-ink-2)", t.theSamePartIn],
  ["unchanged", "var(--color-ok)", t.theSameInShape],
];

/** What became of each part, before the new revision takes the place of the old one. */
export function RevisionDialog({ intake, open, onOpen, assembly }: Props) {
  const report = useReport(open ? intake : undefined);
  const [shown, setShown] = useState<Kind>();
  const pairs = report.data?.pairs ?? [];
  const counts = new Map<Kind, number>();
  for (const pair of pairs) counts.set(pair.kind, (counts.get(pair.kind) ?? 0) + 1);
  const kind = shown ?? KINDS.find(([name]) => counts.has(name))?.[0];
  const left = pairs.filter((pair) => pair.left_behind.length > 0);
  const gone = pairs.filter((pair) => pair.new === null);
  return (
    <Modal title={t.newRevision(report.data?.file_name ?? "…")} open={open} onOpen={onOpen} width={920}>
      {report.isError && <p className="text-stop">{report.error.message}</p>}
      {report.isPending && <p className="text-ink-2">{t.comparingTheParts}</p>}
      {report.data && (
        <>
          <div className="flex flex-wrap gap-1.5" role="tablist" aria-label={t.whatBecameOfThe}>
            {KINDS.map(([name, color, words]) => (
              <button
                key={name}
                type="button"
                role="tab"
                aria-selected={kind === name}
                disabled={!counts.has(name)}
                title={words}
                className={`flex cursor-pointer items-center gap-2 rounded-md border px-2.5 py-1 disabled:cursor-default disabled:opacity-40 ${kind === name ? "border-ink bg-white font-semibold" : "border-rule-strong hover:bg-white"}`}
                onClick={() => setShown(name)}
              >
                <i className="h-2.5 w-2.5 rounded-full" style={{ background: color }} aria-hidden="true" />
                {name} <span className="figures">{counts.get(name) ?? 0}</span>
              </button>
            ))}
          </div>
          <p className="why">{KINDS.find(([name]) => name === kind)?.[2]}.</p>
          <ul
            className="min-h-0 flex-1 overflow-y-auto border border-rule bg-white"
            style={{ minHeight: 220 }}
          >
            {pairs
              .filter((pair) => pair.kind === kind)
              .map((pair) => (
                <PairRow
                  key={`${pair.new?.uid}${pair.old?.uid}`}
                  pair={pair}
                  gone={gone}
                  onJoin={(fresh, old) => assembly.join(intake, fresh, old)}
                />
              ))}
          </ul>
          {report.data.decals.length > 0 && <DecalRows decals={report.data.decals} />}
          {left.length > 0 && (
            <p className="rounded-sm border border-warn bg-white px-2.5 py-1.5 text-[12px]">
              <b className="font-semibold">{t.cannotBeCarriedOver}</b>
              {t.sinceThePartIs(
                left.map((pair) => `${pair.old!.name} (${pair.left_behind.join(", ")})`).join("; "),
              )}
            </p>
          )}
          <div className="flex items-center justify-end gap-2">
            <span className="why flex-1">
              {t.appearancesSuppressionAndPlaces(countParts(pairs.filter((p) => p.new && p.old).length))}
            </span>
            <Button onClick={() => assembly.stop(intake)}>{t.discard}</Button>
            <Button
              look="ink"
              className="!font-semibold"
              onClick={() => {
                assembly.replace(intake);
                onOpen(false);
              }}
            >
              {t.replaceTheModel}
            </Button>
          </div>
        </>
      )}
    </Modal>
  );
}

/** What becomes of decals whose parts have another shape, with pictures of before and now. */
function DecalRows({ decals }: { decals: ReportDecal[] }) {
  const lost = decals.some((one) => one.fate === "lost");
  return (
    <section
      aria-label={t.decalsOnPartsWith}
      className={`max-h-[150px] shrink-0 overflow-y-auto rounded-sm border bg-white px-2.5 py-1.5 text-[12px] ${lost ? "border-warn" : "border-rule"}`}
    >
      <b className="font-semibold">{t.decalsOnPartsWith}</b>
      <ul>
        {decals.map((one) => (
          <li key={`${one.name}${one.old.uid}${one.was.center}`} className="flex items-center gap-3 py-1">
            <DecalSketch side={one.old} decal={one.was} when={t.before} />
            {one.fate === "lost" ? (
              <span className="why grid h-[60px] w-[84px] place-items-center bg-sunk">{t.waits}</span>
            ) : (
              <DecalSketch side={one.new} decal={one.lies} when={t.now} />
            )}
            <span className="min-w-0 flex-1">{decalWords(one)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function DecalSketch({ side, decal, when }: { side: ReportDecal["old"]; decal: Decal; when: string }) {
  return (
    <Sketch
      parts={[{ mesh: side.mesh, world: side.world, decal }]}
      width={126}
      height={72}
      alt={t.on(decal.name, side.name, when)}
    />
  );
}

function decalWords({ name, part, fate, shift }: ReportDecal): string {
  const moved = Math.abs(shift) < 0.005 ? t.keepsItsPlaceOnA : t.movesWithItsFace(length(Math.abs(shift)));
  const words = {
    kept: t.keepsItsPlace,
    moved,
    lost: t.hasLostItsFace,
  };
  return t.on2(name, part, words[fate]);
}

interface RowProps {
  pair: ReportPair;
  gone: ReportPair[];
  onJoin: (fresh: string, old: string | null) => void;
}

function PairRow({ pair, gone, onJoin }: RowProps) {
  const part = pair.new ?? pair.old!;
  const renamed = pair.old && pair.new && pair.old.name !== pair.new.name;
  return (
    <li className="flex items-center gap-3 border-b border-row px-2.5 py-1.5" data-pair={pair.kind}>
      <span className="flex w-[172px] shrink-0 gap-1">
        {[pair.old, pair.new].map((side, index) =>
          side ? (
            <Sketch
              key={side.uid + String(index)}
              parts={[{ mesh: side.mesh, world: side.world }]}
              width={84}
              height={60}
              alt={`${side.name}, ${index ? t.now : t.before}`}
            />
          ) : (
            <span
              key={index ? "none now" : "none before"}
              className="why grid h-[60px] w-[84px] place-items-center bg-sunk"
            >
              {index ? t.gone : t.none}
            </span>
          ),
        )}
      </span>
      <span className="min-w-0 flex-1">
        <b className="block truncate font-semibold">{part.name}</b>
        <span className="why block truncate">{part.path}</span>
        <span className="why block">
          {renamed && t.wasCalled(pair.old!.name)}
          {inOwnForm(pair.because)}
          {pair.new && pair.old && t.sure(percent(pair.confidence))}
        </span>
      </span>
      {pair.new && pair.old && (pair.kind !== "unchanged" || pair.by_hand) && (
        <Button onClick={() => onJoin(pair.new!.uid, null)} title={t.itIsAnotherPart}>
          {t.split}
        </Button>
      )}
      {pair.new && pair.kind === "uncertain" && (
        <Button look="mark" onClick={() => onJoin(pair.new!.uid, pair.old!.uid)} title={t.itIsTheSame}>
          {t.samePart}
        </Button>
      )}
      {pair.kind === "new" && gone.length > 0 && (
        <select
          aria-label={t.whatWasBefore(part.name)}
          className="h-7 max-w-44 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5"
          value=""
          onChange={(event) => onJoin(pair.new!.uid, event.target.value)}
        >
          <option value="">{t.wasNoneOfThe}</option>
          {gone.map((one) => (
            <option key={one.old!.uid} value={one.old!.uid}>
              {t.was(one.old!.name)}
            </option>
          ))}
        </select>
      )}
    </li>
  );
}
