import { useState } from "react";
import type { Camera } from "../api/client";
import { type Optics, opticsOf, viewOf } from "../state/camera";
import { Amount, Choice, NumberField } from "../ui/controls";

interface Props {
  camera: Camera;
  onChange: (optics: Optics) => void;
}

const STOPS = [1.4, 2, 2.8, 4, 5.6, 8, 11, 16, 22];
const BLADES = [0, 5, 6, 7, 8, 9];

/** Aperture, focus and shift: folded away until they are used. */
export function LensFields({ camera, onChange }: Props) {
  const optics = opticsOf(camera);
  const used = optics.f_number != null || optics.shift.some((mm) => mm !== 0);
  const [open, setOpen] = useState(used);
  const view = viewOf(camera);
  const toTarget = view.position.distanceTo(view.target);
  const set = (change: Partial<Optics>) => onChange({ ...optics, ...change });
  if (!open && !used)
    return (
      <button
        type="button"
        className="cursor-pointer self-start text-mark underline-offset-2 hover:underline"
        onClick={() => setOpen(true)}
      >
        Depth of field and shift…
      </button>
    );
  const [right, up] = optics.shift;
  return (
    <>
      <Choice
        label="Aperture"
        value={optics.f_number ?? ""}
        disabled={camera.parallel}
        choices={[
          ["", "all sharp"],
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
            unit="mm"
            scale={Math.log2}
            unscale={(position) => 2 ** position}
            onCommit={(focus_distance) => set({ focus_distance })}
          />
          <Choice
            label="Blades"
            title="Blades of the aperture"
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
    </>
  );
}

const bounded = (mm: number) => Math.min(36, Math.max(-36, mm));

/** The usual values, and the present one where it is another. */
function withOwn(usual: number[], own: number | null): number[] {
  return own === null || usual.includes(own) ? usual : [...usual, own].sort((a, b) => a - b);
}
