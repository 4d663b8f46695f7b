import { ArrowDown, ArrowUp, X } from "lucide-react";
import { useState } from "react";
import { type Rule, type RuleLine, useRules } from "../../api/appearance";
import type { Appearance, Edit, Standing } from "../../api/client";
import { useShelf } from "../../api/queries";
import { useDesk } from "../../state/deskStore";
import { newRule } from "../../state/giving";
import { countParts } from "../../state/rows";
import { Button, IconButton } from "../../ui/controls";
import { Swatch } from "../../ui/Swatch";
import * as t from "../../words/texts/schedules/appearances/Rules";

interface Props {
  reviewId: string;
  standing: Standing;
  edit: (change: Edit) => void;
}

const SURFACES: [string, string][] = [
  ["", t.wholeParts],
  ["plane", t.flatFaces],
  ["cylinder", t.cylindricalFaces],
  ["cone", t.conicalFaces],
  ["sphere", t.sphericalFaces],
  ["torus", t.torusFaces],
  ["free", t.freeFormFaces],
];

/** Rules of the shown look, the higher before the lower: what they let through, and what shows it. */
export function Rules({ reviewId, standing, edit }: Props) {
  const look = standing.scene.look;
  const rules = standing.scene.looks[look]!.rules;
  const lines = useRules(reviewId, standing.seq).data;
  const filter = useDesk((state) => state.filter);
  const shelf = useShelf().data;
  const known = new Map<string, Appearance>();
  for (const { appearance } of shelf?.samples ?? []) known.set(appearance.id, appearance);
  for (const appearance of Object.values(standing.scene.appearances)) known.set(appearance.id, appearance);
  const keep = (next: Rule[], define: Record<string, Appearance> = {}) =>
    edit({ kind: "set_rules", look, rules: next, define });
  const change = (index: number, values: Partial<Rule>) => {
    const next = rules.map((rule, place) => (place === index ? { ...rule, ...values } : rule));
    const worn = values.appearance;
    keep(next, worn ? { [worn]: known.get(worn)! } : {});
  };
  const swap = (index: number, by: number) => {
    const next = [...rules];
    [next[index], next[index + by]] = [next[index + by]!, next[index]!];
    keep(next);
  };
  const add = () => {
    const first = known.get("steel-machined") ?? [...known.values()][0];
    if (!first) return;
    keep([...rules, newRule(filter.trim() || "screw", first)], { [first.id]: first });
  };
  return (
    <section aria-label={t.rules}>
      <h2 className="cap flex items-center border-b border-rule bg-sunk px-3 py-[5px]">
        <span className="flex-1">{t.rulesTopOneWins}</span>
      </h2>
      {rules.map((rule, index) => (
        <RuleRow
          key={rule.id}
          {...{ rule, known }}
          line={lines?.find((line) => line.id === rule.id)}
          onChange={(values) => change(index, values)}
          onUp={index > 0 ? () => swap(index, -1) : undefined}
          onDown={index < rules.length - 1 ? () => swap(index, 1) : undefined}
          onRemove={() => keep(rules.filter((one) => one.id !== rule.id))}
        />
      ))}
      <p className="flex items-center gap-2 border-b border-rule px-3 py-2">
        <span className="why flex-1">{filter.trim() ? t.aRuleForWhat(filter) : t.aRuleGivesAn}</span>
        <Button onClick={add} disabled={known.size === 0}>
          {t.addRule}
        </Button>
      </p>
    </section>
  );
}

interface RowProps {
  rule: Rule;
  known: Map<string, Appearance>;
  line?: RuleLine;
  onChange: (values: Partial<Rule>) => void;
  onUp?: () => void;
  onDown?: () => void;
  onRemove: () => void;
}

function RuleRow({ rule, known, line, onChange, onUp, onDown, onRemove }: RowProps) {
  const [draft, setDraft] = useState<string>();
  const commit = () => {
    const text = draft?.trim();
    setDraft(undefined);
    if (text && text !== rule.filter) onChange({ filter: text });
  };
  const field = "h-7 min-w-0 rounded-md border border-rule-strong bg-white px-1.5";
  return (
    <div
      role="group"
      aria-label={t.rule(rule.filter)}
      className={`flex flex-col gap-1 border-b border-row px-3 py-2 ${rule.on ? "" : "opacity-55"}`}
    >
      <div className="flex items-center gap-1">
        <input
          type="checkbox"
          aria-label={t.ruleIsOn}
          className="h-4 w-4 cursor-pointer accent-mark"
          checked={rule.on}
          onChange={(event) => onChange({ on: event.target.checked })}
        />
        <input
          aria-label={t.partsThatPass}
          className={`${field} flex-1 font-narrow`}
          value={draft ?? rule.filter}
          maxLength={500}
          onChange={(event) => setDraft(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => {
            if (event.key === "Enter") event.currentTarget.blur();
            if (event.key === "Escape") setDraft(undefined);
            event.stopPropagation();
          }}
        />
        <IconButton label={t.higher} disabled={!onUp} onClick={onUp}>
          <ArrowUp size={13} />
        </IconButton>
        <IconButton label={t.lower} disabled={!onDown} onClick={onDown}>
          <ArrowDown size={13} />
        </IconButton>
        <IconButton label={t.removeRule} onClick={onRemove}>
          <X size={13} />
        </IconButton>
      </div>
      <div className="flex items-center gap-1">
        <Swatch appearance={known.get(rule.appearance)} />
        <select
          aria-label={t.appearanceOfTheRule}
          className={`${field} flex-1 cursor-pointer`}
          value={rule.appearance}
          onChange={(event) => onChange({ appearance: event.target.value })}
        >
          {[...known.values()]
            .sort((a, b) => a.name.localeCompare(b.name))
            .map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
        </select>
        <select
          aria-label={t.onWhichFaces}
          className={`${field} cursor-pointer`}
          value={rule.surface ?? ""}
          onChange={(event) => onChange({ surface: (event.target.value || null) as Rule["surface"] })}
        >
          {SURFACES.map(([kind, words]) => (
            <option key={kind} value={kind}>
              {words}
            </option>
          ))}
        </select>
      </div>
      {line && (
        <p className={`text-[12px] ${line.problem ? "text-stop" : "text-ink-2"}`}>
          {line.problem ?? (
            <>
              {countParts(line.passes)} {line.passes === 1 ? t.passes : t.pass},{" "}
              <button
                type="button"
                className="cursor-pointer underline"
                onClick={() => useDesk.getState().choose(line.wearing)}
              >
                {t.showIt(line.wearing.length)}
              </button>
            </>
          )}
        </p>
      )}
    </div>
  );
}
