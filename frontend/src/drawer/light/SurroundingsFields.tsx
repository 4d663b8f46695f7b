import type { Edit, Lighting, Standing } from "../../api/client";
import { useSurroundings } from "../../api/lighting";
import { useDesk } from "../../state/deskStore";
import { Amount } from "../../ui/Amount";
import { Button, Check, ColorField } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import * as t from "../../words/texts/drawer/light/SurroundingsFields";
import { BrightDial } from "./BrightDial";

interface Props {
  standing: Standing;
  id: string;
  lighting: Lighting;
  edit: (change: Edit) => void;
}

const AS_THEY_ARE = {
  brightness: 1,
  turn: 0,
  tilt: 0,
  contrast: 1,
  saturation: 1,
  tint: "#FFFFFF",
  below: null,
  on: true,
};

/** How the surroundings are turned, how bright they are and what they are coloured like. */
export function SurroundingsFields({ standing, id, lighting, edit }: Props) {
  const pointing = useDesk((state) => state.pointing);
  const shipped = useSurroundings().data ?? [];
  const hash = lighting.surroundings.replace("map:", "");
  const label =
    standing.scene.panoramas[hash] ?? shipped.find((one) => one.name === lighting.surroundings)?.label ?? "";
  const preview = (change: Partial<Lighting>) => useDesk.setState({ lightingPreview: change });
  const commit = (change: Partial<Lighting>) => {
    useDesk.setState({ lightingPreview: {} });
    edit({ kind: "set_lighting", id, lighting: { ...lighting, ...change } });
  };
  const isChanged = Object.entries(AS_THEY_ARE).some(([name, value]) => lighting[name as "turn"] !== value);
  return (
    <>
      <header className="flex items-baseline justify-between gap-2">
        <span>
          <span className="cap">{t.surroundings}</span>
          <b className="mt-1.5 block text-[15px] font-semibold">{label}</b>
        </span>
        {isChanged && (
          <Button look="text" onClick={() => commit(AS_THEY_ARE)}>
            {t.reset}
          </Button>
        )}
      </header>
      <Amount
        label={t.brightness}
        value={Math.log2(Math.max(lighting.brightness, 2 ** -8))}
        min={-8}
        max={6}
        step={0.05}
        digits={1}
        unit="EV"
        onPreview={(level) => preview({ brightness: 2 ** level })}
        onCommit={(level) => commit({ brightness: 2 ** level })}
      />
      {lighting.surroundings !== "daylight" && (
        <Amount
          label={t.rotate}
          value={lighting.turn}
          min={-180}
          max={180}
          step={1}
          digits={0}
          unit="°"
          onPreview={(turn) => preview({ turn })}
          onCommit={(turn) => commit({ turn })}
        />
      )}
      {lighting.surroundings !== "daylight" && (
        <BrightDial
          lighting={lighting}
          onPreview={(turn) => preview({ turn })}
          onCommit={(turn) => commit({ turn })}
        />
      )}
      <Amount
        label={t.tilt}
        value={lighting.tilt}
        min={-90}
        max={90}
        step={1}
        digits={0}
        unit="°"
        onCommit={(tilt) => commit({ tilt })}
      />
      <Amount
        label={t.contrast}
        value={lighting.contrast}
        min={0.2}
        max={3}
        step={0.01}
        onCommit={(contrast) => commit({ contrast })}
      />
      <Amount
        label={t.saturation}
        value={lighting.saturation}
        min={0}
        max={3}
        step={0.01}
        onCommit={(saturation) => commit({ saturation })}
      />
      <ColorField label={t.tint} value={lighting.tint} onCommit={(tint) => commit({ tint })} />
      <Check
        label={t.groundInAColour}
        checked={Boolean(lighting.below)}
        onChange={(checked) => commit({ below: checked ? "#808080" : null })}
      />
      {lighting.below && (
        <ColorField label={t.ground} value={lighting.below} onCommit={(below) => commit({ below })} />
      )}
      {lighting.surroundings === "daylight" && <p className="why">{t.itFollowsTheFirst}</p>}
      <Hint text={t.thenClickAnEdge}>
        <Button
          className="shrink-0 self-start"
          look={pointing === "shine" ? "ink" : "mark"}
          onClick={() => useDesk.setState({ pointing: pointing === "shine" ? undefined : "shine" })}
        >
          {t.rotateUntilThisShines}
        </Button>
      </Hint>
    </>
  );
}
