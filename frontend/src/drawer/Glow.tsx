import { useState } from "react";
import { blackBody } from "../api/appearance";
import type { OpenPBR } from "../api/client";
import { toast } from "../api/toast";
import { NumberField } from "../ui/controls";
import { count } from "../words/numbers";
import * as t from "../words/texts/drawer/Glow";

interface Props {
  p: Required<OpenPBR>;
  /** cd/m² from which half the colour is gone in this shot. */
  burns?: number;
  commit: (change: Partial<OpenPBR>) => void;
}

/** Colour of a glow by temperature, and the luminance from which it burns out. */
export function Glow({ p, burns, commit }: Props) {
  const [kelvin, setKelvin] = useState(4000);
  if (p.emission_luminance <= 0) return null;
  const set = async (next: number) => {
    const wanted = Math.min(20_000, Math.max(1000, next));
    setKelvin(wanted);
    try {
      commit({ emission_color: (await blackBody(wanted)).color });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <>
      <div className="flex items-center justify-between gap-3">
        <span>{t.colourByTemperature}</span>
        <span className="w-20">
          <NumberField label={t.temperature} value={kelvin} unit="K" onCommit={set} />
        </span>
      </div>
      {burns !== undefined && (
        <p className={`text-[12px] ${p.emission_luminance >= burns ? "text-warn" : "text-ink-2"}`}>
          {t.lostHalfItsColour(p.emission_luminance >= burns ? t.clippedItHas : t.itWouldHave, count(burns))}
        </p>
      )}
    </>
  );
}
