import { useEffect, useState } from "react";
import { LUMINANCE_RAMP } from "../../api/generated/facts";
import { type Frame, useDesk } from "../../state/deskStore";
import { Button } from "../../ui/controls";
import { decimals } from "../../words/numbers";
import * as t from "../../words/texts/drawer/light/FalseColors";

/** Switches the traced picture to its luminance in false colours, and reads cd/m² under the pointer. */
export function FalseColors({ frame }: { frame: Frame }) {
  const on = useDesk((state) => state.luminance);
  const [under, setUnder] = useState<number>();
  const scale = frame.scale;
  useEffect(() => {
    if (!scale) return;
    const copy = document.createElement("canvas");
    Object.assign(copy, { width: frame.picture.width, height: frame.picture.height });
    const context = copy.getContext("2d", { willReadFrequently: true })!;
    context.drawImage(frame.picture, 0, 0);
    const read = (event: PointerEvent) => {
      const place = document.querySelector("canvas[data-traced]")?.getBoundingClientRect();
      if (!place) return;
      const x = (event.clientX - place.left) / place.width;
      const y = (event.clientY - place.top) / place.height;
      if (x < 0 || y < 0 || x >= 1 || y >= 1) return setUnder(undefined);
      const [r, g, b] = context.getImageData(
        Math.floor(x * copy.width),
        Math.floor(y * copy.height),
        1,
        1,
      ).data;
      setUnder(luminanceOf([r!, g!, b!], scale));
    };
    window.addEventListener("pointermove", read);
    return () => window.removeEventListener("pointermove", read);
  }, [frame, scale]);
  const stops = LUMINANCE_RAMP.map((color) => `rgb(${color.join(" ")})`).join(", ");
  const cd = (value: number) => `${decimals(value, value < 10 ? 1 : 0)}`;
  return (
    <>
      <Button
        className="shrink-0 self-start"
        look={on ? "ink" : "plain"}
        aria-pressed={on}
        onClick={() => useDesk.setState({ luminance: !on })}
      >
        {t.showLuminance}
      </Button>
      {on && scale && (
        <>
          <span
            className="h-[10px] w-full rounded-sm"
            style={{ background: `linear-gradient(90deg, ${stops})` }}
          />
          <span className="figures flex justify-between text-ink-2">
            <span>{cd(scale[0])}</span>
            <span>{cd(Math.sqrt(scale[0] * scale[1]))}</span>
            <span>{t.cdM(cd(scale[1]))}</span>
          </span>
          <p className="why">{under === undefined ? t.crimsonIsClippedViolet : t.aboutCdMUnder(cd(under))}</p>
        </>
      )}
    </>
  );
}

/** cd/m² that a false colour stands for; nothing for the marks. */
export function luminanceOf(
  color: [number, number, number],
  [low, high]: [number, number],
): number | undefined {
  let best = { off: 60 * 60, at: -1 };
  const last = LUMINANCE_RAMP.length - 1;
  for (let step = 0; step <= last * 16; step++) {
    const at = step / 16;
    const k = Math.min(last - 1, Math.floor(at));
    const [a, b] = [LUMINANCE_RAMP[k]!, LUMINANCE_RAMP[k + 1]!];
    const off = color.reduce((sum, v, n) => sum + (v - a[n]! - (b[n]! - a[n]!) * (at - k)) ** 2, 0);
    if (off < best.off) best = { off, at };
  }
  return best.at < 0 ? undefined : low * (high / low) ** (best.at / last);
}
