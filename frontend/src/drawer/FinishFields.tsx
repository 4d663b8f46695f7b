import type { Decal } from "../api/client";
import { Amount } from "../ui/Amount";
import { Check, Choice, LENGTH } from "../ui/controls";
import * as t from "../words/texts/drawer/FinishFields";

type Finish = Decal["finish"];

const FINISHES: Record<Finish["kind"], string> = {
  print: "print",
  foil: t.foilMetal,
  glow: "glowing",
  dead_front: t.deadFront,
  engraved: "engraved",
  embossed: "embossed",
  etched: t.etchedDull,
};

/** What a decal is made of: print, foil, light, relief or a dull spot. */
export function FinishFields({ finish, onChange }: { finish: Finish; onChange: (finish: Finish) => void }) {
  const set = (change: Partial<Finish>) => onChange({ ...finish, ...change });
  const isRelief = finish.kind === "engraved" || finish.kind === "embossed";
  const glows = finish.kind === "glow" || (finish.kind === "dead_front" && finish.lit);
  return (
    <>
      <Choice
        label={t.finish}
        title={t.finishOfTheDecal}
        value={finish.kind}
        choices={Object.entries(FINISHES)}
        onChange={(kind) => onChange({ ...finish, kind: kind as Finish["kind"], roughness: null })}
      />
      {finish.kind === "glow" && <p className="why">{t.itsOwnColoursGlow}</p>}
      {finish.kind === "dead_front" && (
        <>
          <p className="why">{t.showsOnlyWhileIt}</p>
          <Check label={t.lit} checked={finish.lit} onChange={(lit) => set({ lit })} />
        </>
      )}
      {glows && (
        <Amount
          label={t.luminance}
          value={finish.light}
          min={1}
          max={20000}
          step={0.01}
          digits={0}
          unit="cd/m²"
          scale={Math.log10}
          unscale={(position) => Math.round(10 ** position)}
          onCommit={(light) => set({ light })}
        />
      )}
      {isRelief && (
        <>
          <Amount
            label={t.relief}
            value={finish.relief}
            min={0.01}
            max={2}
            step={0.01}
            unit={LENGTH}
            onCommit={(relief) => set({ relief })}
          />
          <Check
            label={t.filledWithItsColours}
            checked={finish.filled}
            onChange={(checked) => set({ filled: checked })}
          />
        </>
      )}
      {!isRelief && finish.kind !== "dead_front" && (
        <Check
          label={t.roughnessOfItsOwn}
          checked={finish.roughness !== null}
          onChange={(checked) => set({ roughness: checked ? 0.3 : null })}
        />
      )}
      {!isRelief && finish.kind !== "dead_front" && finish.roughness !== null && (
        <Amount
          label={t.roughness}
          value={finish.roughness}
          min={0}
          max={1}
          step={0.01}
          onCommit={(roughness) => set({ roughness })}
        />
      )}
    </>
  );
}
