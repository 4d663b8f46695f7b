import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { Link, useLocation } from "wouter";
import { type IntakeAgain, type IntakeFound, intakeActions, useFound } from "../api/assembly";
import {
  api,
  type IntakeLine,
  type Model,
  type Node,
  type Quality,
  taken,
  type Unit,
  type Up,
} from "../api/client";
import { openOf } from "../api/formats";
import { UNITS } from "../api/generated/facts";
import { actions } from "../api/queries";
import { toast } from "../api/toast";
import { furtherCount, takeFurther, useSend } from "../api/upload";
import { countParts } from "../state/rows";
import { Button, Choice, LENGTH, Mark, NumberField } from "../ui/controls";
import { extentOf } from "../viewport/moving";
import { Sketch } from "../viewport/SketchPicture";
import { inOwnForm, sizeWords } from "../words/length";
import { count } from "../words/numbers";
import { loadTypefaces } from "../words/scripts";
import * as t from "../words/texts/reviews/IntakePage";

/** What was found in a file, and how to take it in. */
export function IntakePage({ intake }: { intake: string }) {
  const found = useFound(intake);
  /** As typed here; it outlives another reading of the file. */
  const [name, setName] = useState<string>();
  useEffect(() => {
    document.title = t.importUsualLamp;
  }, []);
  useEffect(() => loadTypefaces(JSON.stringify(found.data ?? "")), [found.data]);
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-[46px] shrink-0 items-center gap-3 border-b border-rule-strong px-3.5">
        <Link href="/" className="flex items-center gap-2 text-[14px] font-semibold">
          <Mark />
          {t.usualLamp}
        </Link>
        <span className="text-rule-strong">/</span>
        <b className="font-semibold">{t.importWord}</b>
        {found.data && (
          <span className="rounded-sm border border-rule-strong bg-sheet px-[7px] py-0.5 font-narrow text-[12px] font-medium">
            {found.data.line.file_name}
          </span>
        )}
      </header>
      {found.isPending && <p className="p-6 text-ink-2">{t.fetchingWhatWasFound}</p>}
      {found.isError && (
        <p className="p-6">
          {found.error.message}{" "}
          <Link href="/" className="text-mark underline">
            {t.allReviews}
          </Link>
        </p>
      )}
      {found.data && (
        <Found
          key={found.dataUpdatedAt}
          {...{ intake, setName }}
          found={found.data}
          name={name ?? found.data.line.name}
        />
      )}
    </div>
  );
}

interface FoundProps {
  intake: string;
  found: IntakeFound;
  name: string;
  setName: (name: string) => void;
}

function Found({ intake, found, name, setName }: FoundProps) {
  const { model, line } = found;
  const client = useQueryClient();
  const [, go] = useLocation();
  const send = useSend();
  const [only, setOnly] = useState<string>();
  const [busy, setBusy] = useState<string>();
  const importer = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    // Whoever is nowhere else goes on with Enter.
    if (busy === undefined && document.activeElement === document.body) importer.current?.focus();
  }, [busy]);
  const open = openOf(line.file_name)!;
  const tops = useMemo(() => branches(model), [model]);
  const shown = useMemo(() => partsOf(found, only), [found, only]);
  const size = useMemo(
    () => (only ? extentOf(model, new Set(shown.map((part) => part.uid))) : found.size),
    [model, only, shown, found.size],
  );

  const again = async (change: Partial<IntakeAgain>) => {
    setBusy(t.readingItAgain);
    try {
      await intakeActions.again(intake, {
        quality: found.quality as Quality,
        unit: found.unit as Unit,
        up: found.up as Up,
        ...found.reading,
        ...change,
      });
      await ended(intake);
      await client.invalidateQueries({ queryKey: ["found", intake] });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
    setBusy(undefined);
  };
  const accept = async () => {
    setBusy(t.takingItIn);
    try {
      const { id } = await intakeActions.accept(intake, name, only ?? null);
      client.invalidateQueries({ queryKey: ["reviews"] });
      for (const model of takeFurther(line.file_name)) send(model, { purpose: "add", review_id: id });
      go(`/reviews/${id}`);
    } catch (problem) {
      toast.error((problem as Error).message);
      setBusy(undefined);
    }
  };
  const discard = async () => {
    takeFurther(line.file_name);
    await actions.stopIntake(intake).catch(() => undefined);
    client.invalidateQueries({ queryKey: ["reviews"] });
    go("/");
  };
  return (
    <main className="grid min-h-0 flex-1 grid-cols-[1fr_360px]">
      <div className="flex min-h-0 flex-col bg-mat p-5">
        <div className="grid min-h-0 flex-1 place-items-center border border-rule-strong bg-paper">
          <Sketch parts={shown} width={760} height={560} alt={t.whatWasFoundIn} />
        </div>
      </div>
      <aside className="flex min-h-0 flex-col gap-3 overflow-y-auto border-l border-rule-strong bg-sheet p-4">
        <label className="flex flex-col gap-1">
          <span className="cap">{t.nameOfTheReview}</span>
          <input
            className="h-8 rounded-md border border-rule-strong bg-white px-2"
            value={name}
            maxLength={120}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <Facts found={found} size={size} shown={shown.length} />
        {found.doubt && (
          <p className="rounded-sm border border-warn bg-white px-2.5 py-1.5 text-[12px]" role="status">
            {inOwnForm(found.doubt)}
          </p>
        )}
        {tops.length > 1 && (
          <label className="flex flex-col gap-1">
            <span className="cap">{t.importWord}</span>
            <select
              className="h-8 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5"
              value={only ?? ""}
              onChange={(event) => setOnly(event.target.value || undefined)}
            >
              <option value="">{t.everything}</option>
              {tops.map(({ node, depth, parts }) => (
                <option key={node.uid} value={node.uid}>
                  {"  ".repeat(depth)}
                  {node.name} ({parts})
                </option>
              ))}
            </select>
          </label>
        )}
        {open.exact && <Tessellation found={found} busy={busy !== undefined} again={again} />}
        {found.variants.length > 0 && (
          <label className="flex flex-col gap-1">
            <span className="cap">{t.variant}</span>
            <select
              className="h-8 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5"
              value={found.variant ?? ""}
              disabled={busy !== undefined}
              onChange={(event) => again({ variant: event.target.value || null })}
            >
              <option value="">{t.asTheFileShows}</option>
              {found.variants.map((variant) => (
                <option key={variant} value={variant}>
                  {variant}
                </option>
              ))}
            </select>
          </label>
        )}
        <Choice
          label={t.unitOfTheFile}
          value={found.unit}
          choices={UNITS.map((unit) => [unit, unit])}
          disabled={busy !== undefined}
          onChange={(unit) => again({ unit: unit as Unit })}
        />
        {!open.exact && (
          <Choice
            label={t.upwardsInTheFile}
            value={found.up}
            choices={[
              [t.asWritten, t.asWritten],
              ["z", t.zAxis],
              ["y", t.yAxis],
            ]}
            disabled={busy !== undefined}
            onChange={(up) => again({ up: up as Up })}
          />
        )}
        {model.warnings.length > 0 && (
          <section aria-label={t.notes} className="flex min-h-0 flex-col gap-1">
            <span className="cap">{t.notes}</span>
            <ul className="max-h-40 overflow-y-auto rounded-sm border border-warn bg-white px-2.5 py-1.5 text-[12px]">
              {model.warnings.map((warning) => (
                <li key={warning}>{warning}</li>
              ))}
            </ul>
          </section>
        )}
        <span className="flex-1" />
        <div className="flex items-center justify-end gap-2">
          <span className="why flex-1">{busy ?? followWords(line.file_name)}</span>
          <Button disabled={busy !== undefined} onClick={discard}>
            {t.discard}
          </Button>
          <Button
            ref={importer}
            look="ink"
            className="!font-semibold"
            disabled={busy !== undefined || !name.trim()}
            onClick={accept}
          >
            {t.importWord}
          </Button>
        </div>
      </aside>
    </main>
  );
}

/** What is said of models that were selected together with this one. */
function followWords(file: string): string | undefined {
  const count = furtherCount(file);
  if (count === 0) return undefined;
  return count === 1 ? t.no1FurtherModelIs : t.furtherModelsAreAdded(count);
}

/** Coarse, fair or fine, or a chord and an angle of one's own. */
function Tessellation({
  found,
  busy,
  again,
}: {
  found: IntakeFound;
  busy: boolean;
  again: (change: Partial<IntakeAgain>) => void;
}) {
  const own = found.reading.chord != null || found.reading.angle != null;
  const [exact, setExact] = useState(own);
  const [chord, setChord] = useState(Number(found.chord.toPrecision(3)));
  const [angle, setAngle] = useState(Number(found.angle.toPrecision(3)));
  return (
    <div className="flex flex-col gap-1.5">
      <Choice
        label={t.tessellation}
        value={exact ? "exact" : found.quality}
        choices={[
          ["coarse", "coarse"],
          ["fair", "fair"],
          ["fine", "fine"],
          ["exact", "exact"],
        ]}
        disabled={busy}
        onChange={(quality) => {
          setExact(quality === "exact");
          if (quality !== "exact") again({ quality: quality as Quality, chord: null, angle: null });
        }}
      />
      {exact && (
        <div className="grid grid-cols-[1fr_1fr_auto] items-end gap-2">
          <div>
            <span className="why">{t.chord}</span>
            <NumberField label={t.chord} unit={LENGTH} digits={4} value={chord} onCommit={setChord} />
          </div>
          <div>
            <span className="why">{t.angle}</span>
            <NumberField label={t.angle} unit="°" digits={1} value={angle} onCommit={setAngle} />
          </div>
          <Button disabled={busy} onClick={() => again({ chord, angle })}>
            {t.readAgain}
          </Button>
        </div>
      )}
    </div>
  );
}

function Facts({
  found,
  size,
  shown,
}: {
  found: IntakeFound;
  size?: [number, number, number];
  shown: number;
}) {
  const { model } = found;
  const all = model.nodes.filter((node) => node.definition).length;
  const hidden = model.hidden_in_cad.length;
  const facts: [string, string][] = [
    [t.size, size ? sizeWords(size) : t.none],
    [
      t.parts,
      `${shown === all ? "" : t.ofWord(shown)}${countParts(all)}${all > 1 ? t.different(Object.keys(model.definitions).length) : ""}`,
    ],
    [t.triangles, count(found.triangles)],
    [t.unit, model.source_units],
    [t.hiddenInCad, hidden ? t.leftOutUntilBrought(countParts(hidden)) : t.none],
  ];
  return (
    <dl className="grid grid-cols-[96px_1fr] gap-y-1.5 border-y border-rule py-2.5">
      {facts.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="cap self-center">{name}</dt>
          <dd className="figures">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** Nodes that can be taken alone, with how many parts each has. */
function branches(model: Model): { node: Node; depth: number; parts: number }[] {
  const by = new Map(model.nodes.map((node) => [node.uid, node]));
  const counts = new Map<string, number>();
  for (const part of model.nodes)
    if (part.definition)
      for (let up: Node | undefined = part; up; up = up.parent ? by.get(up.parent) : undefined)
        counts.set(up.uid, (counts.get(up.uid) ?? 0) + 1);
  const depth = (node: Node): number => (node.parent ? depth(by.get(node.parent)!) + 1 : 0);
  return model.nodes
    .filter((node) => !node.definition || !node.parent)
    .slice(0, 200)
    .map((node) => ({ node, depth: depth(node), parts: counts.get(node.uid) ?? 0 }));
}

function partsOf({ model, face_colors }: IntakeFound, only: string | undefined) {
  const inside = new Set(only ? [only] : []);
  for (const node of model.nodes) if (node.parent && inside.has(node.parent)) inside.add(node.uid);
  const hidden = new Set(model.hidden_in_cad);
  const parts = model.nodes.filter((node) => node.definition && (!only || inside.has(node.uid)));
  const visible = parts.filter((node) => !hidden.has(node.uid));
  return (visible.length ? visible : parts).map((node) => ({
    uid: node.uid,
    mesh: model.definitions[node.definition!]!.mesh,
    world: node.world!,
    color: node.color ? colorOf(node.color) : undefined,
    faces: Object.entries(face_colors[node.uid] ?? {}).map(
      ([face, id]) => [Number(face), colorOf(id)] as const,
    ),
    opacity: node.color ? Number.parseInt(node.color.slice(10, 12), 16) / 255 : undefined,
  }));
}

/** The id of a CAD colour spells it out: three bytes of linear light. */
function colorOf(id: string): [number, number, number] {
  const byte = (at: number) => Number.parseInt(id.slice(at, at + 2), 16) / 255;
  return [byte(4), byte(6), byte(8)];
}

/** Waits until a run has stopped running; throws when it failed. */
async function ended(intake_id: string) {
  for (;;) {
    await new Promise((done) => setTimeout(done, 500));
    const run = await taken<IntakeLine>(
      api.GET("/api/intakes/{intake_id}", { params: { path: { intake_id } } }),
    );
    if (run.state === "failed") throw new Error(run.message ?? t.theFileCouldNot);
    if (run.state === "ready") return;
  }
}
