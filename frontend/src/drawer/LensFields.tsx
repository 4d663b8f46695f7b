import type { Camera, Standing } from "../api/client";
import { MOST_SHIFT } from "../api/generated/facts";
import { type Optics, opticsOf, viewOf } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { Amount, Button, Check, Choice, LENGTH, NumberField } from "../ui/controls";
import { length } from "../words/length";
import { decimals } from "../words/numbers";

interface Props {
  camera: Camera;
  /** What is sharp, where not everything is. */
  sharp?: Standing["sharp"][string];
  locked: boolean;
  onChange: (optics: Optics) => void;
}

/** mm, and what cameras with such a sensor are called in any handbook. */
const SENSORS = [
  [43.8, "44 mm, medium format"],
  [36, "36 mm, full frame"],
  [23.6, "23.6 mm, APS-C"],
  [17.3, "17.3 mm, four thirds"],
  [13.2, "13.2 mm, one inch"],
] as const;

const STOPS = [1.4, 2, 2.8, 4, 5.6, 8, 11, 16, 22];
const BLADES = [0, 5, 6, 7, 8, 9];

const FOLDED = "Depth of field, shift, roll and cut";

/** Aperture, focus, shift, roll and cut: folded away until they are used. */
export function LensFields({ camera, sharp, locked, onChange }: Props) {
  const showsSharp = useDesk((state) => state.showsSharp);
  const optics = opticsOf(camera);
  const used =
    optics.f_number != null ||
    optics.shift.some((mm) => mm !== 0) ||
    optics.roll !== 0 ||
    optics.near != null;
  const open = useDesk((state) => state.sections[FOLDED]);
  const view = viewOf(camera);
  const toTarget = view.position.distanceTo(view.target);
  const set = (change: Partial<Optics>) => onChange({ ...optics, ...change });
  if (!open && !used)
    return (
      <button
        type="button"
        className="cursor-pointer self-start text-mark underline-offset-2 hover:underline"
        onClick={() => useDesk.setState(({ sections }) => ({ sections: { ...sections, [FOLDED]: true } }))}
      >
        {FOLDED}…
      </button>
    );
  const [right, up] = optics.shift;
  return (
    <>
      <Choice
        label="Aperture"
        topic="aperture"
        value={optics.f_number ?? ""}
        disabled={camera.parallel}
        choices={[
          ["", "no blur"],
          ...withOwn(STOPS, optics.f_number).map((stop) => [stop, `f/${stop}`] as const),
        ]}
        onChange={(stop) => set({ f_number: stop ? Number(stop) : null })}
      />
      {optics.f_number != null && (
        <>
          <Amount
            label="Focus"
            value={optics.focus_distance ?? toTarget}
            min={toTarget / 8}
            max={toTarget * 4}
            step={0.001}
            digits={0}
            unit={LENGTH}
            disabled={locked}
            scale={Math.log2}
            unscale={(position) => 2 ** position}
            onCommit={(focus_distance) => set({ focus_distance })}
          />
          <div className="flex gap-2">
            <Button onClick={() => useDesk.setState({ pointing: "focus" })}>Focus by a click</Button>
            {optics.focus_distance != null && (
              <Button onClick={() => set({ focus_distance: null })}>On the middle</Button>
            )}
          </div>
          {sharp && (
            <Check
              label="Tint what is sharp"
              checked={showsSharp}
              onChange={(checked) => useDesk.setState({ showsSharp: checked })}
            />
          )}
          {sharp && (
            <p className="why" aria-live="polite">
              {sharp.far === null
                ? `Sharp from ${far(sharp.near)} to infinity.`
                : `Sharp from ${far(sharp.near, sharp.far - sharp.near)} to ${far(sharp.far, sharp.far - sharp.near)}, over ${far(sharp.far - sharp.near)}.`}{" "}
              Hyperfocal distance {decimals(sharp.hyperfocal / 1000, 2)} m.
            </p>
          )}
          <Choice
            label="Sensor"
            value={optics.sensor}
            choices={[
              ...SENSORS.map(([width, words]) => [width, words] as const),
              ...(SENSORS.some(([width]) => width === optics.sensor)
                ? []
                : [[optics.sensor, `${decimals(optics.sensor, 1)} mm, cropped`] as const]),
            ]}
            onChange={(width) => set({ sensor: Number(width) })}
          />
          <Choice
            label="Aperture blades"
            value={optics.blades}
            choices={withOwn(BLADES, optics.blades).map((n) => [n, n < 3 ? "round" : `${n}`] as const)}
            onChange={(blades) => set({ blades: Number(blades) })}
          />
          <p className="why">The shaded picture is sharp throughout; the lamp and stills show the blur.</p>
        </>
      )}
      <div className="grid grid-cols-[96px_1fr_1fr] items-center gap-3">
        <span>Shift</span>
        <span className="flex items-baseline gap-1.5">
          <span aria-hidden="true">→</span>
          <NumberField
            label="Shift to the right"
            value={right}
            digits={1}
            unit="mm"
            onCommit={(mm) => set({ shift: [bounded(mm), up] })}
          />
        </span>
        <span className="flex items-baseline gap-1.5">
          <span aria-hidden="true">↑</span>
          <NumberField
            label="Shift upwards"
            value={up}
            digits={1}
            unit="mm"
            onCommit={(mm) => set({ shift: [right, bounded(mm)] })}
          />
        </span>
      </div>
      <Amount
        label="Roll"
        value={optics.roll}
        min={-180}
        max={180}
        step={1}
        digits={1}
        unit="°"
        disabled={locked}
        onCommit={(roll) => set({ roll })}
      />
      {optics.near == null ? (
        <Button look="text" className="self-start" onClick={() => set({ near: Math.round(toTarget * 0.9) })}>
          Cut away what is nearest…
        </Button>
      ) : (
        <>
          <Amount
            label="Cut up to"
            value={optics.near}
            min={toTarget / 20}
            max={toTarget * 2}
            step={toTarget / 200}
            digits={0}
            unit={LENGTH}
            disabled={locked}
            onCommit={(near) => set({ near })}
          />
          <Button look="text" className="self-start" onClick={() => set({ near: null })}>
            No cut
          </Button>
        </>
      )}
    </>
  );
}

/** Finer the narrower the range is that is spoken of. */
const far = (value: number, span = value) => length(value, span < 30 ? 1 : 0);
const bounded = (mm: number) => Math.min(MOST_SHIFT, Math.max(-MOST_SHIFT, mm));

/** The usual values, and the present one where it is another. */
function withOwn(usual: number[], own: number | null): number[] {
  return own === null || usual.includes(own) ? usual : [...usual, own].sort((a, b) => a - b);
}
