import { useState } from "react";
import type { AssemblyActions } from "../../api/assembly";
import type { Model, Quality } from "../../api/client";
import { Button, LENGTH, NumberField } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import { length } from "../../words/length";
import { count, decimals } from "../../words/numbers";
import * as t from "../../words/texts/drawer/model/Fineness";
import { Section } from "./Section";

interface Props {
  model: Model;
  /** Nodes whose parts are meant; everything when it is empty. */
  uids: string[];
  shotId: string;
  assembly: AssemblyActions;
}

const WORDS: Record<Quality, string> = {
  coarse: t.quickFacetsMayShow,
  fair: t.facetsHardlyShow,
  fine: t.forLargePictures,
};

/** Tessellation of everything or of some parts: a quality, exact values, or as fine as a shot can show. */
export function Fineness({ model, uids, shotId, assembly }: Props) {
  const wanted = new Set(uids);
  const parts = model.nodes.filter((node) => node.definition && (wanted.size === 0 || wanted.has(node.uid)));
  const used = [...new Set(parts.map((node) => node.definition!))].map((key) => model.definitions[key]!);
  const exact = used.filter((definition) => definition.exact);
  const first = exact[0];
  const [chord, setChord] = useState<number>();
  const [angle, setAngle] = useState<number>();
  const triangles = parts.reduce((sum, node) => sum + model.definitions[node.definition!]!.triangles, 0);
  const worst = Math.max(0, ...used.map((definition) => definition.deviation ?? 0));
  const same = (pick: (d: (typeof used)[number]) => number) => new Set(exact.map(pick)).size === 1;
  return (
    <Section title={t.tessellation} fact={t.triangles(count(triangles))}>
      {!first ? (
        <p className="why">{t.theseCameAsTriangles}</p>
      ) : (
        <>
          <p className="why">
            {t.askedChordAngleMeasured(
              same((d) => d.chord) ? length(first.chord, 3) : t.several,
              same((d) => d.angle) ? `${decimals((first.angle * 180) / Math.PI)}°` : t.several,
              worst ? length(worst, 4) : "?",
            )}
          </p>
          <div className="flex gap-1.5">
            {(Object.keys(WORDS) as Quality[]).map((quality) => (
              <Hint key={quality} text={WORDS[quality]}>
                <Button className="flex-1 capitalize" onClick={() => assembly.tessellate({ uids, quality })}>
                  {quality}
                </Button>
              </Hint>
            ))}
          </div>
          <Hint text={t.asFineAsThis}>
            <Button onClick={() => assembly.tessellate({ uids, shot: shotId })}>{t.fitToTheShot}</Button>
          </Hint>
          <div className="flex items-end gap-3">
            <div className="flex-1">
              <span className="why">{t.chord}</span>
              <NumberField
                label={t.chord}
                value={chord ?? first.chord}
                digits={4}
                unit={LENGTH}
                onCommit={setChord}
              />
            </div>
            <div className="w-16">
              <span className="why">{t.angle}</span>
              <NumberField
                label={t.angle}
                value={angle ?? (first.angle * 180) / Math.PI}
                digits={0}
                unit="°"
                onCommit={setAngle}
              />
            </div>
            <Button
              onClick={() =>
                assembly.tessellate({
                  uids,
                  chord: chord ?? first.chord,
                  angle: angle ?? (first.angle * 180) / Math.PI,
                })
              }
            >
              {t.use}
            </Button>
          </div>
          {exact.length < used.length && <p className="why">{t.ofThemCameAs(used.length - exact.length)}</p>}
        </>
      )}
    </Section>
  );
}
