import type { Edit, Lamp, Lighting } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { freshId, lampWords, stands } from "../../state/lighting";
import { Amount } from "../../ui/Amount";
import { Button, Check, Choice, ColorField, LENGTH, NumberField } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import { NameField } from "../../ui/NameField";
import * as t from "../../words/texts/drawer/light/LampFields";
import { SunFields } from "./SunFields";

interface Props {
  id: string;
  /** Of the lamp. */
  light: string;
  lamp: Lamp;
  lighting: Lighting;
  edit: (change: Edit) => void;
}

const SIZES: Record<Lamp["kind"], [string, string, string][]> = {
  panel: [
    ["width", t.width, LENGTH],
    ["height", t.height, LENGTH],
  ],
  tube: [
    ["length", t.length, LENGTH],
    ["diameter", t.diameter, LENGTH],
  ],
  spot: [["diameter", t.diameter, LENGTH]],
  point: [["diameter", t.diameter, LENGTH]],
  photometric: [["diameter", t.diameter, LENGTH]],
  field: [
    ["spacing", t.spacing, LENGTH],
    ["diameter", t.diameter, LENGTH],
  ],
  card: [
    ["width", t.width, LENGTH],
    ["height", t.height, LENGTH],
  ],
  distant: [],
};
const POWERS = {
  panel: ["luminance", t.luminance, "cd/m²"],
  tube: ["luminance", t.luminance, "cd/m²"],
  spot: ["candela", t.intensity, "cd"],
  point: ["lumen", t.luminousFlux, "lm"],
  field: ["lumen", t.fluxOfEachBulb, "lm"],
  distant: ["lux", t.illuminance, "lx"],
} as const;

/** The settings of one lamp. */
export function LampFields({ id, light, lamp, lighting, edit }: Props) {
  const pointing = useDesk((state) => state.pointing);
  const set = (change: object) => {
    useDesk.setState({ lightingPreview: {} });
    edit({ kind: "set_lamps", id, lamps: { [light]: { ...lamp, ...change } as Lamp } });
  };
  const preview = (change: object) =>
    useDesk.setState({
      lightingPreview: { lamps: { ...lighting.lamps, [light]: { ...lamp, ...change } as Lamp } },
    });
  const others = Object.entries(lighting.lamps).filter(([key, one]) => key !== light && one.kind !== "card");
  const isSolo = lamp.on && !lighting.on && !lighting.glows && others.every(([, other]) => !other.on);
  const solo = () => {
    const on = isSolo;
    const lamps = Object.fromEntries(
      Object.entries(lighting.lamps).map(([key, one]) => [
        key,
        one.kind === "card" ? one : { ...one, on: on || key === light },
      ]),
    );
    edit({ kind: "set_lighting", id, lighting: { ...lighting, lamps, on, glows: on } });
  };
  const copy = () => {
    const key = freshId(lighting.lamps, `lamp-${crypto.randomUUID().slice(0, 8)}`);
    edit({ kind: "set_lamps", id, lamps: { [key]: { ...lamp, name: `${lamp.name} 2`.slice(0, 60) } } });
    useDesk.setState({ light: key });
  };
  const remove = () => {
    edit({ kind: "set_lamps", id, lamps: { [light]: null } });
    useDesk.setState({ light: "surroundings" });
  };
  const givesLight = lamp.kind !== "card";
  const numbers = lamp as unknown as Record<string, number>;
  const point = (how: "highlight" | "shadow") =>
    useDesk.setState({ pointing: pointing === how ? undefined : how });
  return (
    <>
      <header className="flex flex-col gap-1.5">
        <span className="cap">{lampWords(lamp)}</span>
        <NameField
          label={t.nameOfTheLamp}
          className="h-7 rounded-md border border-transparent bg-transparent text-[15px] font-semibold hover:border-rule-strong focus:border-rule-strong focus:bg-white focus:px-1.5"
          value={lamp.name}
          onCommit={(name) => set({ name })}
        />
        <span className="flex gap-1.5">
          {givesLight && (
            <Hint text={t.lightWithThisLamp}>
              <Button look={isSolo ? "ink" : "plain"} aria-pressed={isSolo} onClick={solo}>
                {t.solo}
              </Button>
            </Hint>
          )}
          <Button onClick={copy}>{t.copy}</Button>
          <Button onClick={remove}>{t.remove}</Button>
        </span>
      </header>
      {givesLight && <Power lamp={lamp} set={set} preview={preview} />}
      {lamp.kind === "card" && (
        <Choice
          label={t.surface}
          value={lamp.surface}
          choices={SURFACES}
          onChange={(surface) => set({ surface })}
        />
      )}
      {lamp.kind === "field" && <FieldFields lamp={lamp} set={set} />}
      {SIZES[lamp.kind].map(([name, label, unit]) => (
        <div key={name} className="flex items-center justify-between">
          <span>{label}</span>
          <span className="w-[120px]">
            <NumberField
              label={label}
              value={numbers[name]!}
              unit={unit}
              onCommit={(value) => set({ [name]: Math.min(1e5, Math.max(1, value)) })}
            />
          </span>
        </div>
      ))}
      {lamp.kind === "spot" && (
        <>
          <Amount
            label={t.fullBeam}
            value={lamp.inner}
            min={0}
            max={84}
            step={1}
            digits={0}
            unit="°"
            onCommit={(inner) => set({ inner, outer: Math.max(inner + 1, lamp.outer) })}
          />
          <Amount
            label={t.beamEnds}
            value={lamp.outer}
            min={1}
            max={85}
            step={1}
            digits={0}
            unit="°"
            onCommit={(outer) => set({ outer, inner: Math.min(lamp.inner, outer - 1) })}
          />
        </>
      )}
      {lamp.kind === "distant" && (
        <>
          <Amount
            label={t.direction}
            value={lamp.azimuth}
            min={-180}
            max={180}
            step={1}
            digits={0}
            unit="°"
            onPreview={(azimuth) => preview({ azimuth })}
            onCommit={(azimuth) => set({ azimuth })}
          />
          <Amount
            label={t.height}
            value={lamp.elevation}
            min={-10}
            max={90}
            step={1}
            digits={0}
            unit="°"
            onPreview={(elevation) => preview({ elevation })}
            onCommit={(elevation) => set({ elevation })}
          />
          <Amount
            label={t.size}
            value={lamp.angle}
            min={0.1}
            max={30}
            step={0.1}
            digits={1}
            unit="°"
            onCommit={(angle) => set({ angle })}
          />
        </>
      )}
      {lamp.kind === "distant" && <SunFields lamp={lamp} set={set} />}
      {stands(lamp) && <Places lamp={lamp} set={set} />}
      <div className="flex flex-col gap-1">
        <Check label={t.theCameraSeesIt} checked={lamp.seen} onChange={(seen) => set({ seen })} />
        {givesLight && (
          <Check
            label={t.shinySurfacesShowIt}
            checked={lamp.mirrored}
            onChange={(mirrored) => set({ mirrored })}
          />
        )}
      </div>
      <div className="flex gap-1.5">
        <Hint text={t.thenClickWhereIts}>
          <Button look={pointing === "highlight" ? "ink" : "mark"} onClick={() => point("highlight")}>
            {t.highlightHere}
          </Button>
        </Hint>
        <Hint text={t.thenClickOnThe}>
          <Button look={pointing === "shadow" ? "ink" : "mark"} onClick={() => point("shadow")}>
            {t.shadowHere}
          </Button>
        </Hint>
      </div>
    </>
  );
}

interface FieldsOf<L> {
  lamp: L;
  set: (change: object) => void;
}

/** How much light a lamp gives, and of what colour. */
function Power({ lamp, set, preview }: FieldsOf<Lamp> & { preview: (change: object) => void }) {
  const numbers = lamp as unknown as Record<string, number>;
  const [power, label, unit] = lamp.kind in POWERS ? POWERS[lamp.kind as keyof typeof POWERS] : [];
  return (
    <>
      {power ? (
        <div className="flex items-center justify-between">
          <span>{label}</span>
          <span className="w-[120px]">
            <NumberField
              label={label}
              value={numbers[power]!}
              digits={numbers[power]! < 10 ? 1 : 0}
              unit={unit}
              onCommit={(value) => set({ [power]: Math.min(1e9, Math.max(0, value)) })}
            />
          </span>
        </div>
      ) : (
        <p className="why">{t.itsFileSaysHow}</p>
      )}
      <Amount
        label={t.colour}
        value={lamp.kelvin}
        min={1500}
        max={12000}
        step={50}
        digits={0}
        unit="K"
        onPreview={(kelvin) => preview({ kelvin })}
        onCommit={(kelvin) => set({ kelvin })}
      />
      <ColorField label={t.filter} value={lamp.filter} onCommit={(filter) => set({ filter })} />
    </>
  );
}

const SURFACES: [Extract<Lamp, { kind: "card" }>["surface"], string][] = [
  ["white", "white"],
  ["grey", "grey"],
  ["black", "black"],
  ["mirror", "mirror"],
];

/** How many bulbs a field has, how they are strewn, and their colours. */
function FieldFields({ lamp, set }: FieldsOf<Extract<Lamp, { kind: "field" }>>) {
  return (
    <>
      {(["columns", "rows"] as const).map((name) => (
        <Amount
          key={name}
          label={name === "columns" ? t.across : t.upwards}
          value={lamp[name]}
          min={1}
          max={name === "columns" ? 20 : 10}
          step={1}
          digits={0}
          onCommit={(value) => set({ [name]: value })}
        />
      ))}
      <Amount
        label={t.disorder}
        value={lamp.jitter}
        min={0}
        max={1}
        step={0.01}
        onCommit={(jitter) => set({ jitter })}
      />
      {lamp.colors.map((color, k) => (
        <ColorField
          // biome-ignore lint/suspicious/noArrayIndexKey: colours have no other name than their place
          key={k}
          label={t.bulbs(k + 1)}
          value={color}
          onCommit={(value) => set({ colors: lamp.colors.map((one, j) => (j === k ? value : one)) })}
        />
      ))}
    </>
  );
}

function Places({
  lamp,
  set,
}: {
  lamp: Extract<Lamp, { position: unknown }>;
  set: (change: object) => void;
}) {
  return (["position", "target"] as const).map((name) => (
    <div key={name} className="grid grid-cols-[62px_1fr_1fr_1fr] items-baseline gap-1.5">
      <span>{name === "position" ? t.position : t.aimedAt}</span>
      {(["x", "y", "z"] as const).map((axis, k) => (
        <NumberField
          key={axis}
          label={`${name === "position" ? t.position : t.aimedAt} ${axis}`}
          value={lamp[name][k]!}
          unit={LENGTH}
          mark={axis}
          onCommit={(value) => set({ [name]: lamp[name].map((v, j) => (j === k ? value : v)) })}
        />
      ))}
    </div>
  ));
}
