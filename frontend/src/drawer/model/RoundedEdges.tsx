import type { Edit, Standing } from "../../api/client";
import { Check, LENGTH, NumberField } from "../../ui/controls";
import { Explained } from "../../ui/Explained";
import { length } from "../../words/length";
import * as t from "../../words/texts/drawer/model/RoundedEdges";
import { Section } from "./Section";

/** mm, of edges that are broken by hand or by use. */
const USUAL = 0.2;

/** Sharp edges that catch light as real ones do; no geometry changes. */
export function RoundedEdges({ standing, edit }: { standing: Standing; edit: (change: Edit) => void }) {
  const { rounding } = standing.scene;
  const set = (width: number) => edit({ kind: "set_rounding", rounding: width });
  return (
    <Section title={t.edges} fact={rounding ? t.rounded(length(rounding, 1)) : "sharp"}>
      <Check label={t.roundSharpEdgesIn} checked={rounding > 0} onChange={(on) => set(on ? USUAL : 0)} />
      <p className="why">{t.realEdgesAreA}</p>
      {rounding > 0 && (
        <div className="w-28">
          <Explained label={t.radius} topic="rounding" className="why" />
          <NumberField
            label={t.radiusOfEdges}
            value={rounding}
            digits={2}
            unit={LENGTH}
            onCommit={(value) => set(Math.min(3, Math.max(0, value)))}
          />
        </div>
      )}
    </Section>
  );
}
