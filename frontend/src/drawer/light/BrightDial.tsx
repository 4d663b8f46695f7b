import { useState } from "react";
import type { Lighting } from "../../api/client";
import { useBrightest } from "../../api/lighting";
import { useDesk } from "../../state/deskStore";
import * as t from "../../words/texts/drawer/light/BrightDial";

interface Props {
  lighting: Lighting;
  onPreview: (turn: number) => void;
  onCommit: (turn: number) => void;
}

const RADIUS = 44;
const radians = (degrees: number) => (degrees * Math.PI) / 180;
const tidy = (turn: number) => Math.round(((((turn + 180) % 360) + 360) % 360) - 180);

/** The sky above the product seen from above: where it is brightest, and from where one looks. Dragging it rotates the
 * surroundings. */
export function BrightDial({ lighting, onPreview, onCommit }: Props) {
  const bright = useBrightest(lighting).data ?? [];
  const view = useDesk((state) => state.view);
  const [turned, setTurned] = useState<number>();
  const [from, setFrom] = useState<number>();
  const turn = turned ?? lighting.turn;
  // The front of the product is at the bottom, as on a drawing.
  const at = (azimuth: number, elevation: number) => {
    const out = RADIUS * (1 - elevation / 90);
    return { x: 50 + out * Math.sin(radians(azimuth)), y: 50 + out * Math.cos(radians(azimuth)) };
  };
  const angle = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left - box.width / 2, event.clientY - box.top - box.height / 2];
    return (Math.atan2(x, y) * 180) / Math.PI;
  };
  const arm = view?.position.clone().sub(view.target);
  const eye = arm && at((Math.atan2(arm.x, -arm.y) * 180) / Math.PI, 0);
  const end = () => {
    if (turned !== undefined) onCommit(turned);
    setFrom(undefined);
    setTurned(undefined);
  };
  return (
    <div className="flex items-center gap-3">
      <svg
        viewBox="0 0 100 100"
        role="img"
        aria-label={t.brightestDirections(
          bright.map((one) => words(one.azimuth + turn, one.elevation)).join("; ") || t.noneTheLightIs,
        )}
        className="h-[104px] w-[104px] shrink-0 cursor-grab touch-none active:cursor-grabbing"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          setFrom(angle(event) - turn);
        }}
        onPointerMove={(event) => {
          if (from === undefined) return;
          const next = tidy(angle(event) - from);
          setTurned(next);
          onPreview(next);
        }}
        onPointerUp={end}
        onPointerCancel={end}
      >
        <circle cx="50" cy="50" r={RADIUS} className="fill-white stroke-rule-strong" />
        <circle cx="50" cy="50" r={RADIUS / 2} className="fill-none stroke-rule" />
        <path d="M50 6v88M6 50h88" className="stroke-rule" />
        <rect x="46" y="46" width="8" height="8" className="fill-sunk stroke-ink-2" />
        {bright.map((one) => {
          const { x, y } = at(one.azimuth + turn, one.elevation);
          return (
            <circle
              key={`${one.azimuth} ${one.elevation}`}
              cx={x}
              cy={y}
              r={3 + 9 * Math.sqrt(one.share)}
              className="fill-lamp/60 stroke-lamp"
            />
          );
        })}
        {eye && (
          <circle cx={eye.x} cy={eye.y} r="3.2" className="fill-mark stroke-white">
            <title>{t.fromHereOneLooks}</title>
          </circle>
        )}
      </svg>
      <p className="why">{bright.length > 0 ? t.seenFromAboveThe : t.theseSurroundingsAreEvenly}</p>
    </div>
  );
}

function words(azimuth: number, elevation: number): string {
  const sides = ["front", t.frontRight, "right", t.backRight, "back", t.backLeft, "left", t.frontLeft];
  const side = sides[Math.round(((((azimuth % 360) + 360) % 360) / 45) % 8) % 8];
  return t.up(String(side), Math.round(elevation));
}
