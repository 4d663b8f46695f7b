import { useState } from "react";
import type { AssemblyActions } from "../../api/assembly";
import type { Model, Quality } from "../../api/client";
import { Button, Hint, LENGTH, NumberField } from "../../ui/controls";
import { length } from "../../words/length";
import { count, decimals } from "../../words/numbers";
import { Section } from "./Section";

interface Props {
  model: Model;
  /** Nodes whose parts are meant; everything when it is empty. */
  uids: string[];
  shotId: string;
  assembly: AssemblyActions;
}

const WORDS: Record<Quality, string> = {
  coarse: "Quick; facets may show",
  fair: "Facets hardly show",
  fine: "For large pictures",
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
    <Section title="Tessellation" fact={`${count(triangles)} triangles`}>
      {!first ? (
        <p className="why">
          These came as triangles, without exact surfaces: they cannot be made finer here.
        </p>
      ) : (
        <>
          <p className="why">
            Asked: chord {same((d) => d.chord) ? length(first.chord, 3) : "several"}, angle{" "}
            {same((d) => d.angle) ? `${decimals((first.angle * 180) / Math.PI)}°` : "several"}. Measured: at
            most {worst ? length(worst, 4) : "?"} off the exact surface.
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
          <Hint text="As fine as this shot can show at its size: no outline more than half a pixel off, no triangle beyond">
            <Button onClick={() => assembly.tessellate({ uids, shot: shotId })}>Fit to the shot</Button>
          </Hint>
          <div className="flex items-end gap-3">
            <div className="flex-1">
              <span className="why">Chord</span>
              <NumberField
                label="Chord"
                value={chord ?? first.chord}
                digits={4}
                unit={LENGTH}
                onCommit={setChord}
              />
            </div>
            <div className="w-16">
              <span className="why">Angle</span>
              <NumberField
                label="Angle"
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
              Use
            </Button>
          </div>
          {exact.length < used.length && (
            <p className="why">
              {used.length - exact.length} of them came as triangles and stay as they are.
            </p>
          )}
        </>
      )}
    </Section>
  );
}
