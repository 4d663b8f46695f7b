import { useState } from "react";
import type { Appearance, Edit, Standing } from "../../api/client";
import { useShelf } from "../../api/queries";
import { useDesk } from "../../state/deskStore";
import { countParts } from "../../state/rows";
import { Button } from "../../ui/controls";
import { oneTabStop } from "../../ui/oneTabStop";
import { Swatch } from "../../ui/Swatch";
import * as t from "../../words/texts/schedules/appearances/InUse";
import { looksEdit, nameOf, unusedOf, usesOf } from "./uses";

interface Props {
  standing: Standing;
  edit: (change: Edit) => void;
}

/** Appearances in this look with how many parts wear them; every use can be chosen, one replaced by another. */
export function InUse({ standing, edit }: Props) {
  const uses = usesOf(standing);
  const rest = uses.filter((use) => !use.own && use.uids.length > 0);
  const unused = unusedOf(standing);
  const [replacing, setReplacing] = useState<string>();
  return (
    <section ref={oneTabStop} aria-label={t.appearancesInUse}>
      <h2 className="cap border-b border-rule bg-sunk px-3 py-[5px]">{t.inUse}</h2>
      {uses
        .filter((use) => use.own && use.uids.length + use.beneath.length > 0)
        .map(({ appearance, uids, beneath }) => (
          <div
            key={appearance.id}
            data-uids={uids.join(" ")}
            data-row={nameOf(appearance)}
            className="border-b border-row px-3 py-1"
          >
            <div className="flex min-h-6 items-center">
              <button
                type="button"
                className="flex min-w-0 flex-1 cursor-pointer items-center text-left hover:underline"
                aria-label={t.selectPartsWith(nameOf(appearance))}
                onClick={() => useDesk.getState().choose(uids)}
              >
                <Swatch appearance={appearance} nothing={appearance.family === "neutral"} />
                <span className="truncate">{nameOf(appearance)}</span>
              </button>
              <span className="why mr-2 whitespace-nowrap">
                {countParts(uids.length)}
                {beneath.length > 0 && (
                  <>
                    {" · "}
                    <button
                      type="button"
                      className="cursor-pointer underline"
                      onClick={() => useDesk.getState().choose(beneath)}
                    >
                      {t.beneath(beneath.length)}
                    </button>
                  </>
                )}
              </span>
              <Button
                look="text"
                aria-label={t.replaceEverywhere(appearance.name)}
                onClick={() => setReplacing(replacing === appearance.id ? undefined : appearance.id)}
              >
                {t.replace}
              </Button>
            </div>
            {replacing === appearance.id && (
              <ReplaceBy
                standing={standing}
                old={appearance.id}
                onPick={(next) => {
                  setReplacing(undefined);
                  edit({ kind: "replace_appearance", old: appearance.id, new: next });
                }}
              />
            )}
          </div>
        ))}
      {rest.length > 0 && (
        <button
          type="button"
          data-row={t.fromCadOrNo(rest.length, rest.length === 1 ? t.colour : t.colours)}
          className="flex min-h-8 w-full cursor-pointer items-center gap-[3px] border-b border-row px-3 text-left hover:underline"
          onClick={() => useDesk.getState().choose(new Set(rest.flatMap((use) => use.uids)))}
        >
          <span className="flex-1">
            {t.fromCadOrNo(rest.length, rest.length === 1 ? t.colour : t.colours)}
          </span>
          <span className="why">{countParts(new Set(rest.flatMap((use) => use.uids)).size)}</span>
        </button>
      )}
      {unused.length > 0 && (
        <p className="flex items-center gap-2 border-b border-rule px-3 py-2">
          <span className="why flex-1">{t.keptInThisReview(unused.length)}</span>
          <Button
            onClick={() => edit(looksEdit({ define: Object.fromEntries(unused.map((id) => [id, null])) }))}
          >
            {t.removeThem}
          </Button>
        </p>
      )}
    </section>
  );
}

interface ReplaceProps {
  standing: Standing;
  old: string;
  onPick: (next: Appearance) => void;
}

function ReplaceBy({ standing, old, onPick }: ReplaceProps) {
  const shelf = useShelf().data;
  const own = Object.values(standing.scene.appearances);
  const known = new Map<string, Appearance>();
  for (const appearance of [...own, ...(shelf?.samples ?? []).map((sample) => sample.appearance)])
    if (appearance.id !== old && !known.has(appearance.id)) known.set(appearance.id, appearance);
  return (
    <select
      aria-label={t.replaceEverywhereWith}
      className="mb-1 h-7 w-full cursor-pointer rounded-md border border-rule-strong bg-white px-1.5"
      value=""
      onChange={(event) => onPick(known.get(event.target.value)!)}
    >
      <option value="">{t.replaceEverywhereWith2}</option>
      {[...known.values()]
        .sort((a, b) => a.name.localeCompare(b.name))
        .map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
    </select>
  );
}
