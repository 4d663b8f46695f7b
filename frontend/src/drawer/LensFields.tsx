import type { Camera, Standing } from "../api/client";
import { MOST_SHIFT } from "../api/generated/facts";
import { type Optics, opticsOf, viewOf } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { Amount } from "../ui/Amount";
import { Button, Check, Choice, LENGTH, NumberField } from "../ui/controls";
import { length } from "../words/length";
import { decimals } from "../words/numbers";
import * as t from "../words/texts/drawer/LensFields";
import { Unfold } from "./Unfold";

interface Props {
  camera: Camera;
  /** What is sharp, where not everything is. */
  sharp?: Standing["sharp"][string];
  locked: boolean;
  onChange: (optics: Optics) => void;
}

/** mm, and what cameras with such a sensor are called in any handbook. */
const SENSORS = [
  [43.8, t.no44MmMediumFormat],
  [36, t.no36MmFullFrame],
  [23.6, t.no236MmAps],
  [17.3, t.no173MmFour],
  [13.2, t.no132MmOne],
] as const;

const STOPS = [1.4, 2, 2.8, 4, 5.6, 8, 11, 16, 22];
const BLADES = [0, 5, 6, 7, 8, 9];

const FOLDED = t.depthOfFieldShift;

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
  if (!open && !used) return <Unfold title={FOLDED} />;
  const [right, up] = optics.shift;
  return (
    <>
      <Choice
        label={t.aperture}
        topic="aperture"
        value={optics.f_number ?? ""}
        disabled={camera.parallel}
        choices={[
          ["", t.noBlur],
          ...withOwn(STOPS, optics.f_number).map((stop) => [stop, `f/${stop}`] as const),
        ]}
        onChange={(stop) => set({ f_number: stop ? Number(stop) : null })}
      />
      {optics.f_number != null && (
        <>
          <Amount
            label={t.focus}
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
            <Button onClick={() => useDesk.setState({ pointing: "focus" })}>{t.focusByAClick}</Button>
            {optics.focus_distance != null && (
              <Button onClick={() => set({ focus_distance: null })}>{t.onTheMiddle}</Button>
            )}
          </div>
          {sharp && (
            <Check
              label={t.tintWhatIsSharp}
              checked={showsSharp}
              onChange={(checked) => useDesk.setState({ showsSharp: checked })}
            />
          )}
          {sharp && (
            <p className="why" aria-live="polite">
              {t.hyperfocalDistanceM(
                sharp.far === null
                  ? t.sharpFromToInfinity(far(sharp.near))
                  : t.sharpFromToOver(
                      far(sharp.near, sharp.far - sharp.near),
                      far(sharp.far, sharp.far - sharp.near),
                      far(sharp.far - sharp.near),
                    ),
                decimals(sharp.hyperfocal / 1000, 2),
              )}
            </p>
          )}
          <Choice
            label={t.sensor}
            value={optics.sensor}
            choices={[
              ...SENSORS.map(([width, words]) => [width, words] as const),
              ...(SENSORS.some(([width]) => width === optics.sensor)
                ? []
                : [[optics.sensor, t.mmCropped(decimals(optics.sensor, 1))] as const]),
            ]}
            onChange={(width) => set({ sensor: Number(width) })}
          />
          <Choice
            label={t.apertureBlades}
            value={optics.blades}
            choices={withOwn(BLADES, optics.blades).map((n) => [n, n < 3 ? "round" : `${n}`] as const)}
            onChange={(blades) => set({ blades: Number(blades) })}
          />
          <p className="why">{t.theShadedPictureIs}</p>
        </>
      )}
      <div className="grid grid-cols-[96px_1fr_1fr] items-center gap-3">
        <span>{t.shift}</span>
        <span className="flex items-baseline gap-1.5">
          <span aria-hidden="true">→</span>
          <NumberField
            label={t.shiftToTheRight}
            value={right}
            digits={1}
            unit="mm"
            onCommit={(mm) => set({ shift: [bounded(mm), up] })}
          />
        </span>
        <span className="flex items-baseline gap-1.5">
          <span aria-hidden="true">↑</span>
          <NumberField
            label={t.shiftUpwards}
            value={up}
            digits={1}
            unit="mm"
            onCommit={(mm) => set({ shift: [right, bounded(mm)] })}
          />
        </span>
      </div>
      <Amount
        label={t.roll}
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
          {t.cutAwayWhatIs}
        </Button>
      ) : (
        <>
          <Amount
            label={t.cutUpTo}
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
            {t.noCut}
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
