import type { Appearance } from "../api/client";
import { toHex } from "./color";

/** A small patch in an appearance's colour, shaped like a finish plate; metals shine, see-through ones are hatched. */
export function Swatch({ appearance, nothing }: { appearance?: Appearance; nothing?: boolean }) {
  let background = "repeating-linear-gradient(45deg,#fff 0 3px,#d5d0c5 3px 6px)";
  if (appearance && !nothing) {
    const p = appearance.params;
    const glow = (p.emission_luminance ?? 0) > 0;
    const clear = (p.transmission_weight ?? 0) > 0.5;
    const hex = toHex(
      (glow ? p.emission_color : clear ? p.transmission_color : p.base_color) ?? [0.8, 0.8, 0.8],
    );
    if (glow) background = `radial-gradient(circle at 50% 45%, #fff, ${hex} 60%)`;
    else if (clear) background = `linear-gradient(135deg, #fff 0 38%, ${hex} 38% 62%, #fff 62%)`;
    else if ((p.base_metalness ?? 0) > 0.5)
      background = `linear-gradient(135deg, color-mix(in srgb, ${hex} 35%, white), ${hex} 55%, color-mix(in srgb, ${hex} 70%, black))`;
    else background = hex;
  }
  return (
    <i
      aria-hidden="true"
      className="mr-2 inline-block h-[13px] w-[18px] shrink-0 rounded-[1px_1px_4px_4px] align-[-2px] shadow-[inset_0_0_0_1px_#0003]"
      style={{ background }}
    />
  );
}
