import { memo } from "react";
import { Link } from "wouter";
import type { Model, Standing, StillLine } from "../api/client";
import { useDesk } from "../state/deskStore";
import { type LengthUnit, length, selectUnit, sizeWords, UNITS, useLength } from "../words/length";
import { count, decimals, percent } from "../words/numbers";
import * as t from "../words/texts/desk/TitleBlock";

interface Props {
  reviewId: string;
  model: Model;
  standing: Standing;
  shotId: string;
  stills: StillLine[];
}

/** The foot line: a drawing's title block. */
export const TitleBlock = memo(function TitleBlock({ reviewId, model, standing, shotId, stills }: Props) {
  const shot = standing.scene.shots[shotId]!;
  const parts = model.nodes.filter((node) => node.definition);
  const shown = parts.filter((node) => standing.scene.states[node.uid] === undefined);
  const triangles = shown.reduce((sum, node) => sum + model.definitions[node.definition!]!.triangles, 0);
  const busy = stills.filter((still) => still.state === "running" || still.state === "queued").length;
  const kept = stills.filter((still) => still.state === "done").length;
  const frame = useDesk((state) => state.frame);
  const geometry = useDesk((state) => state.geometry);
  const mb = (bytes: number) => Math.ceil(bytes / 2 ** 20);
  const unit = useLength((state) => state.unit);
  const facts: [string, string][] = [
    [t.shown, standing.size ? sizeWords(standing.size) : t.nothing],
    [t.parts, t.ofWord(shown.length, parts.length)],
    [t.triangles, count(triangles)],
    [t.geometry, geometry ? t.ofMb(mb(geometry.used), mb(geometry.most)) : "…"],
    [t.chord, model.chord ? length(model.chord, model.chord < 0.1 ? 3 : 2) : t.asInTheFile],
    [t.exposure, t.ev(decimals(shot.exposure, 1))],
    [t.lens, t.mm(Math.round(shot.camera.focal_length))],
  ];
  if (frame)
    facts.push([
      t.noise,
      t.samples(frame.grain === undefined ? "…" : percent(frame.grain, 1), frame.samples),
    ]);
  return (
    <footer className="flex h-[42px] shrink-0 border-t border-rule-strong bg-sheet">
      {facts.map(([name, value]) => (
        <Fact key={name} name={name} value={value} className="border-r border-rule" />
      ))}
      <label className="flex flex-col gap-1 border-r border-rule px-[13px] pt-[7px]">
        <span className="cap">{t.lengthsIn}</span>
        <select
          className="figures -my-0.5 cursor-pointer bg-transparent"
          value={unit}
          onChange={(event) => selectUnit(event.target.value as LengthUnit)}
        >
          {UNITS.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
      </label>
      <span className="flex-1" />
      <Link href={`/reviews/${reviewId}/stills`} title={t.allStills} className="hover:bg-paper">
        <Fact
          name="Stills"
          value={`${busy > 0 ? t.tracing(busy) : ""}${kept} ${kept === 1 ? t.still : t.stills}`}
          className="border-l border-rule"
        />
      </Link>
    </footer>
  );
});

function Fact({ name, value, className }: { name: string; value: string; className: string }) {
  return (
    <div className={`flex flex-col gap-1 whitespace-nowrap px-[13px] pt-[7px] ${className}`}>
      <span className="cap">{name}</span>
      <span className="figures">{value}</span>
    </div>
  );
}
