import type { Edit, Lamp, Lighting } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { freshId, lampWords, stands } from "../../state/lighting";
import { Amount, Button, Choice, ColorField, Hint, LENGTH, NumberField } from "../../ui/controls";
import { NameField } from "../../ui/NameField";
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
    ["width", "Width", LENGTH],
    ["height", "Height", LENGTH],
  ],
  tube: [
    ["length", "Length", LENGTH],
    ["diameter", "Diameter", LENGTH],
  ],
  spot: [["diameter", "Diameter", LENGTH]],
  point: [["diameter", "Diameter", LENGTH]],
  photometric: [["diameter", "Diameter", LENGTH]],
  field: [
    ["spacing", "Spacing", LENGTH],
    ["diameter", "Diameter", LENGTH],
  ],
  card: [
    ["width", "Width", LENGTH],
    ["height", "Height", LENGTH],
  ],
  distant: [],
};
const POWERS = {
  panel: ["luminance", "Luminance", "cd/m²"],
  tube: ["luminance", "Luminance", "cd/m²"],
  spot: ["candela", "Intensity", "cd"],
  point: ["lumen", "Luminous flux", "lm"],
  field: ["lumen", "Flux of each bulb", "lm"],
  distant: ["lux", "Illuminance", "lx"],
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
          label="Name of the lamp"
          className="h-7 rounded-md border border-transparent bg-transparent text-[15px] font-semibold hover:border-rule-strong focus:border-rule-strong focus:bg-white focus:px-1.5"
          value={lamp.name}
          onCommit={(name) => set({ name })}
        />
        <span className="flex gap-1.5">
          {givesLight && (
            <Hint text="Light with this lamp alone, or with all again">
              <Button look={isSolo ? "ink" : "plain"} aria-pressed={isSolo} onClick={solo}>
                Solo
              </Button>
            </Hint>
          )}
          <Button onClick={copy}>Copy</Button>
          <Button onClick={remove}>Remove</Button>
        </span>
      </header>
      {givesLight && <Power lamp={lamp} set={set} preview={preview} />}
      {lamp.kind === "card" && (
        <Choice
          label="Surface"
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
            label="Full beam"
            value={lamp.inner}
            min={0}
            max={84}
            step={1}
            digits={0}
            unit="°"
            onCommit={(inner) => set({ inner, outer: Math.max(inner + 1, lamp.outer) })}
          />
          <Amount
            label="Beam ends"
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
            label="Direction"
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
            label="Height"
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
            label="Size"
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
        <Tick label="The camera sees it" checked={lamp.seen} onChange={(seen) => set({ seen })} />
        {givesLight && (
          <Tick
            label="Shiny surfaces show it"
            checked={lamp.mirrored}
            onChange={(mirrored) => set({ mirrored })}
          />
        )}
      </div>
      <div className="flex gap-1.5">
        <Hint text="Then click where its highlight shall lie: the lamp goes to where it is mirrored there">
          <Button look={pointing === "highlight" ? "ink" : "mark"} onClick={() => point("highlight")}>
            Highlight here…
          </Button>
        </Hint>
        <Hint text="Then click on the floor: the shadow of the product's top falls there">
          <Button look={pointing === "shadow" ? "ink" : "mark"} onClick={() => point("shadow")}>
            Shadow here…
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
        <p className="why">Its file says how much light it sends where. The level changes all of it.</p>
      )}
      <Amount
        label="Colour"
        value={lamp.kelvin}
        min={1500}
        max={12000}
        step={50}
        digits={0}
        unit="K"
        onPreview={(kelvin) => preview({ kelvin })}
        onCommit={(kelvin) => set({ kelvin })}
      />
      <ColorField label="Filter" value={lamp.filter} onCommit={(filter) => set({ filter })} />
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
          label={name === "columns" ? "Across" : "Upwards"}
          value={lamp[name]}
          min={1}
          max={name === "columns" ? 20 : 10}
          step={1}
          digits={0}
          onCommit={(value) => set({ [name]: value })}
        />
      ))}
      <Amount
        label="Disorder"
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
          label={`Bulbs ${k + 1}`}
          value={color}
          onCommit={(value) => set({ colors: lamp.colors.map((one, j) => (j === k ? value : one)) })}
        />
      ))}
    </>
  );
}

function Tick(props: { label: string; checked: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-1.5">
      <input
        type="checkbox"
        checked={props.checked}
        onChange={(event) => props.onChange(event.target.checked)}
      />
      {props.label}
    </label>
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
      <span>{name === "position" ? "Position" : "Aimed at"}</span>
      {(["x", "y", "z"] as const).map((axis, k) => (
        <NumberField
          key={axis}
          label={`${name === "position" ? "Position" : "Aimed at"} ${axis}`}
          value={lamp[name][k]!}
          unit={LENGTH}
          mark={axis}
          onCommit={(value) => set({ [name]: lamp[name].map((v, j) => (j === k ? value : v)) })}
        />
      ))}
    </div>
  ));
}
