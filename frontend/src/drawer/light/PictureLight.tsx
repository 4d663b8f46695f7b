import { useEffect, useRef, useState } from "react";
import type { Edit, Lighting } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { decimals, percent } from "../../words/numbers";
import * as t from "../../words/texts/drawer/light/PictureLight";
import { Balance } from "./Balance";
import { FalseColors } from "./FalseColors";

const BINS = 64;
const HIGH = 46;
/** Pixels of the picture that are looked at. */
const LOOKED_AT = 160;

interface Props {
  /** Of the lighting. */
  id: string;
  lighting: Lighting;
  edit: (change: Edit) => void;
}

/** How bright the traced picture is: its histogram, what is clipped, and which lamp gives most. */
export function PictureLight({ id, lighting, edit }: Props) {
  const frame = useDesk((state) => (state.lamp ? state.frame : undefined));
  const [found, setFound] = useState<Histogram>();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (frame && frame.samples > 0 && !frame.scale) setFound(histogramOf(frame.picture));
  }, [frame]);
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context || !found) return;
    const { width, height } = context.canvas;
    context.clearRect(0, 0, width, height);
    context.fillStyle = "#23272e";
    const most = Math.max(...found.bins.slice(1, -1), 1e-6);
    found.bins.forEach((share, bin) => {
      const tall = Math.min(1, share / most) * (height - 2);
      context.fillRect((bin * width) / BINS, height - tall, width / BINS, tall);
    });
    context.fillStyle = "#a42a2a";
    context.fillRect(3, 0, 1, height);
    context.fillRect(width - 4, 0, 1, height);
  }, [found]);
  if (!frame) return <p className="why">{t.switchTheLampOn}</p>;
  return (
    <section aria-label={t.thePicturesLight} className="flex flex-col gap-1.5">
      <div className="flex items-baseline justify-between">
        <span className="cap">{t.thePicturesLight}</span>
        {found && (
          <span className="why">{t.clippedBlack(percent(found.clipped, 1), percent(found.drowned, 1))}</span>
        )}
      </div>
      <canvas ref={canvas} width={256} height={HIGH} className="w-full bg-sunk" />
      <p className="why">{strongest(frame.shares, lighting)}</p>
      {frame.outline && frame.outline.lost >= 0.05 && (
        <p className="why">
          {t.ofTheProductsOutline(Math.round(frame.outline.lost * 100), frame.outline.where)}
        </p>
      )}
      <FalseColors frame={frame} />
      {frame.shares && (
        <Balance shares={frame.shares} over={frame.outline?.over} {...{ id, lighting, edit }} />
      )}
    </section>
  );
}

interface Histogram {
  bins: number[];
  clipped: number;
  drowned: number;
}

function histogramOf(picture: ImageBitmap): Histogram {
  const small = document.createElement("canvas");
  const height = Math.max(1, Math.round((LOOKED_AT * picture.height) / picture.width));
  Object.assign(small, { width: LOOKED_AT, height });
  const context = small.getContext("2d", { willReadFrequently: true })!;
  context.drawImage(picture, 0, 0, LOOKED_AT, height);
  const { data } = context.getImageData(0, 0, LOOKED_AT, height);
  const bins = new Array<number>(BINS).fill(0);
  const count = data.length / 4;
  let clipped = 0;
  let drowned = 0;
  for (let k = 0; k < data.length; k += 4) {
    const [r, g, b] = [data[k]!, data[k + 1]!, data[k + 2]!];
    const level = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    bins[Math.min(BINS - 1, Math.floor((level / 256) * BINS))]! += 1 / count;
    if (Math.max(r, g, b) >= 254) clipped += 1 / count;
    if (Math.max(r, g, b) <= 2) drowned += 1 / count;
  }
  return { bins, clipped, drowned };
}

/** "Key gives 51 % of the product's light, 5.6 times the fill." */
export function strongest(shares: Record<string, number> | undefined, lighting: Lighting): string {
  const name = (id: string) =>
    id === "environment" ? t.surroundings : id === "glow" ? t.glowingParts : (lighting.lamps[id]?.name ?? id);
  const order = Object.entries(shares ?? {}).sort(([, a], [, b]) => b - a);
  const [first, second] = order;
  if (!first || first[1] <= 0) return "";
  const most = t.ofTheLight(
    name(first[0]),
    first[0] === "environment" || first[0] === "glow" ? t.give : t.gives,
    Math.round(first[1] * 100),
  );
  if (!second || second[1] < 0.005) return `${most}.`;
  return t.timesAsMuchAs(most, decimals(first[1] / second[1], 1), name(second[0]));
}
