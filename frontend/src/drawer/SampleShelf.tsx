import { useQueryClient } from "@tanstack/react-query";
import { Grid2x2, Grid3x3, Search } from "lucide-react";
import { useState } from "react";
import { type Consequence, keepSample, removeKeptSample, useConsequence } from "../api/appearance";
import type { Appearance, Edit, Model, Sample, Standing } from "../api/client";
import { useShelf } from "../api/queries";
import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { givingEdit, REACHES, type Reach, reachesOf, ruleEdit, type Target } from "../state/giving";
import { countParts, listNames } from "../state/rows";
import { Choice, IconButton } from "../ui/controls";
import { oneTabStop } from "../ui/oneTabStop";
import * as t from "../words/texts/drawer/SampleShelf";
import { noteSample, recentSamples } from "./recent";
import { SampleCell } from "./SampleCell";

const SHELVES = ["recent", "kept", "in use", "all"] as const;
const SHELF_WORDS = { recent: t.recent, kept: t.kept, "in use": t.inUse, all: t.all };

interface Props {
  reviewId: string;
  model: Model;
  standing: Standing;
  uids: string[];
  /** What found them, where nothing is selected. */
  filter?: string;
  edit: (change: Edit) => void;
}

const BY_RULE = "rule";

/** The shelf: samples as finish plates; pointing at one says what giving it would change. */
export function SampleShelf({ reviewId, model, standing, uids, filter, edit }: Props) {
  const faces = useDesk((state) => state.faces);
  const target: Target = { model, standing, uids, faces };
  const reaches = reachesOf(target);
  const wanted = useDesk((state) => state.reach);
  const reach = reaches.includes(wanted) ? wanted : reaches[0]!;
  const byRule = useDesk((state) => state.byRule) && filter !== undefined;
  const shelf = useShelf();
  const [words, setWords] = useState("");
  const [family, setFamily] = useState<string>();
  const [shelfOf, setShelfOf] = useState<(typeof SHELVES)[number]>("all");
  const [large, setLarge] = useState(false);
  const cache = useQueryClient();
  const [pointed, setPointed] = useState<Sample>();
  const wished = (appearance: Appearance, rule: boolean, these: readonly string[] = []) =>
    rule && filter !== undefined
      ? ruleEdit(standing, filter, appearance)
      : givingEdit(appearance, reach, target, these);
  const wish = pointed && uids.length > 0 ? wished(pointed.appearance, byRule) : undefined;
  const would = useConsequence(reviewId, standing.seq, wish).data;
  if (shelf.isError) return <p className="text-stop">{t.theShelfCouldNot}</p>;
  if (!shelf.data) return <p className="text-ink-2">{t.fetchingTheShelf}</p>;
  const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
  const known = new Set(shelf.data.samples.map((sample) => sample.appearance.id));
  const own = Object.values(standing.scene.appearances)
    .filter(({ id }) => !known.has(id))
    .map((appearance): Sample => ({ appearance, plate: null, words: t.own2, kept: false }));
  const counts = new Map<string, number>();
  for (const { appearance } of Object.values(standing.worn))
    counts.set(appearance, (counts.get(appearance) ?? 0) + 1);
  const recent = recentSamples();
  const everything = [...own, ...shelf.data.samples];
  const offered = {
    all: everything,
    "in use": everything.filter(({ appearance }) => counts.has(appearance.id)),
    kept: everything.filter(({ kept }) => kept),
    recent: recent.flatMap((id) => everything.find(({ appearance }) => appearance.id === id) ?? []),
  };
  // What begins with the words comes before what only holds them: carbon before polycarbonate.
  const begins = ({ appearance }: Sample) =>
    asked.every((word) => ` ${appearance.name.toLowerCase()}`.includes(` ${word}`));
  const found = offered[shelfOf].filter(
    ({ appearance, words: others }) =>
      (!family || appearance.family === family) &&
      asked.every((word) => `${appearance.name} ${appearance.family} ${others}`.toLowerCase().includes(word)),
  );
  const samples = asked.length > 0 ? found.toSorted((a, b) => +begins(b) - +begins(a)) : found;
  const give = ({ appearance }: Sample, rule: boolean, these?: readonly string[]) => {
    if (uids.length === 0) return;
    noteSample(appearance.id);
    edit(wished(appearance, rule, these));
  };
  const takeOff = async ({ appearance }: Sample) => {
    await removeKeptSample(appearance.id);
    await cache.invalidateQueries({ queryKey: ["shelf"] });
    toast(t.isOffTheShelf(appearance.name), {
      action: {
        label: t.keepItAgain,
        onClick: () => keepSample(appearance).then(() => cache.invalidateQueries({ queryKey: ["shelf"] })),
      },
    });
  };
  return (
    <section className="flex shrink-0 flex-col gap-[9px]" aria-label={t.samples}>
      <div className="flex justify-between">
        <span className="cap">{t.samples}</span>
        <span className="flex gap-2">
          {SHELVES.map((name) => (
            <button
              key={name}
              type="button"
              aria-pressed={shelfOf === name}
              className={`why cursor-pointer ${shelfOf === name ? "font-semibold !text-ink underline" : "hover:underline"}`}
              onClick={() => setShelfOf(name)}
            >
              {SHELF_WORDS[name]} {offered[name].length}
            </button>
          ))}
        </span>
      </div>
      <Choice
        label={t.applyTo}
        value={byRule ? BY_RULE : reach}
        choices={[
          ...REACHES.filter(([name]) => reaches.includes(name)),
          ...(filter === undefined ? [] : [[BY_RULE, t.whatThisFilterFinds] as const]),
        ]}
        onChange={(next) =>
          useDesk.setState(next === BY_RULE ? { byRule: true } : { byRule: false, reach: next as Reach })
        }
      />
      <GiveNote model={model} uids={uids} sample={pointed} would={would} />
      <label className="flex h-7 items-center gap-2 rounded-md border border-rule-strong bg-white px-2 text-ink-3 focus-within:outline-2 focus-within:outline-mark">
        <Search size={14} aria-hidden="true" />
        <input
          aria-label={t.findASample}
          placeholder={t.steelClearGloss}
          className="min-w-0 flex-1 bg-transparent text-ink outline-none"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Escape") setWords("");
            if (event.key === "ArrowDown") {
              const first = event.currentTarget.closest("section")?.querySelector("[data-row] button");
              (first as HTMLElement | null)?.focus();
              event.preventDefault();
            }
            event.stopPropagation();
          }}
        />
      </label>
      <div className="flex flex-wrap gap-[5px]" role="group" aria-label={t.families}>
        <IconButton
          label={large ? t.smallPlates : t.largePlates}
          className="!h-[22px] !w-[22px]"
          onClick={() => setLarge(!large)}
        >
          {large ? <Grid3x3 size={14} /> : <Grid2x2 size={14} />}
        </IconButton>
        {shelf.data.families.map((name) => (
          <button
            key={name}
            type="button"
            aria-pressed={family === name}
            className={`cursor-pointer rounded-sm border px-[7px] py-0.5 font-narrow text-[12px] font-medium capitalize ${
              family === name ? "border-ink bg-ink text-white" : "border-rule-strong bg-sheet hover:bg-white"
            }`}
            onClick={() => setFamily(family === name ? undefined : name)}
          >
            {name}
          </button>
        ))}
      </div>
      <div
        ref={oneTabStop}
        className={`grid gap-[6px] ${large ? "grid-cols-2" : "grid-cols-4"}`}
        onPointerLeave={() => setPointed(undefined)}
      >
        {samples.map((sample) => (
          <SampleCell
            key={sample.appearance.id}
            sample={sample}
            large={large}
            used={counts.get(sample.appearance.id)}
            onGive={({ shiftKey, altKey }) =>
              give(sample, byRule || altKey, shiftKey && pointed === sample ? would?.keeping : undefined)
            }
            onPoint={(on) => setPointed(on ? sample : undefined)}
            onTakeOff={() => takeOff(sample)}
          />
        ))}
      </div>
      {samples.length === 0 && (
        <p className="text-ink-2">
          {shelfOf === "kept" && offered.kept.length === 0 ? t.nothingIsKeptYet : t.noMatchingSampleTry}
        </p>
      )}
    </section>
  );
}

interface NoteProps {
  model: Model;
  uids: string[];
  sample?: Sample;
  would?: Consequence;
}

/** What a click would change, said before it lands. */
function GiveNote({ model, uids, sample, would }: NoteProps) {
  let words: React.ReactNode;
  if (uids.length === 0) words = t.selectPartsFirstA;
  else if (!sample || !would) words = t.hoverOverASample(countParts(uids.length));
  else {
    const { changing, meant, keeping, faces } = would;
    const { name } = sample.appearance;
    const rest =
      keeping.length > 0 &&
      t.ownShiftClickChanges(
        keeping.length,
        keeping.length === 1 ? t.hasIts : t.haveTheir,
        keeping.length === 1 ? t.it : t.them,
      );
    const own = faces > 0 && t.own(faces, faces === 1 ? t.faceKeepsIts : t.facesKeepTheir);
    if (changing.length === 0)
      words = (
        <>
          {t.changesNothingAlready(meant === 1 ? t.itHas : t.allHave(meant), name)}
          {rest}
          {own}.
        </>
      );
    else
      words = (
        <>
          {t.gives} <b className="font-semibold">{name}</b>:{" "}
          <b className="font-semibold">
            {changing.length === meant ? countParts(meant) : t.ofWord(changing.length, countParts(meant))}
          </b>{" "}
          {changing.length === 1 ? t.changes : t.change}, {listNames(model, changing)}
          {rest}
          {own}.
        </>
      );
  }
  return (
    <p
      className="min-h-[48px] rounded-sm border border-rule bg-white px-2.5 py-[7px] text-[12px]"
      aria-live="polite"
    >
      {words}
    </p>
  );
}
