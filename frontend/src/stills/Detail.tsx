import { type RefObject, useEffect, useState } from "react";
import type { StillLine } from "../api/client";
import { detailOf, shownSmaller } from "../api/stills";

const REST = 250;
/** ms without a move before the part that is seen is asked for. */

interface Props {
  still: StillLine;
  /** Screen pixels to a picture pixel, and how far its middle is from that of the window. */
  scale: number;
  x: number;
  y: number;
  area: RefObject<HTMLDivElement | null>;
}

/** The part of a large still that is seen, at its full size, over the whole that is shown smaller. */
export function Detail({ still, scale, x, y, area }: Props) {
  const [part, setPart] = useState<{ left: number; top: number; width: number; height: number }>();
  const needed = still.developable && shownSmaller(still) * scale > 1;
  useEffect(() => {
    if (!needed) return setPart(undefined);
    const timer = window.setTimeout(() => {
      const box = area.current!.getBoundingClientRect();
      const [left, right] = seen(box.width, x, still.width, scale);
      const [top, bottom] = seen(box.height, y, still.height, scale);
      setPart(
        right > left && bottom > top ? { left, top, width: right - left, height: bottom - top } : undefined,
      );
    }, REST);
    return () => window.clearTimeout(timer);
  }, [needed, scale, x, y, still.width, still.height, area]);
  if (!needed || !part) return null;
  const from = (side: number, off: number, start: number) =>
    `calc(50% + ${off + (start - side / 2) * scale}px)`;
  return (
    <img
      alt=""
      draggable={false}
      className="absolute max-w-none"
      src={detailOf(still, part)}
      style={{
        left: from(still.width, x, part.left),
        top: from(still.height, y, part.top),
        width: part.width * scale,
        height: part.height * scale,
        imageRendering: scale > 1.5 ? "pixelated" : "auto",
      }}
    />
  );
}

/** First and last pixel of a side that the window shows. */
function seen(window: number, off: number, side: number, scale: number): [number, number] {
  const start = side / 2 - (window / 2 + off) / scale;
  return [Math.max(0, Math.floor(start)), Math.min(side, Math.ceil(start + window / scale))];
}
