import { useEffect, useLayoutEffect, useRef } from "react";
import { type Frame, type Region, useDesk } from "../state/deskStore";
import * as t from "../words/texts/desk/TracedPicture";

interface Props {
  viewKey: string;
  beneath: boolean;
  /** That of the look beside. */
  beside?: boolean;
}

/** The traced picture: beneath the marks of what is chosen, or where only a part is traced, over the shaded one. */
export function TracedPicture({ viewKey, beneath, beside }: Props) {
  const frame = useDesk((state) => (beside ? state.besideFrame : state.frame));
  const inset = useDesk((state) => !beside && state.inset);
  const problem = useDesk((state) => state.lampMessage);
  const fits = frame?.viewKey === viewKey;
  const message = problem ?? (fits ? frame.remark : undefined);
  return (
    <>
      {frame && (fits || inset) && (
        <FrameCanvas frame={frame} place={inset ? "corner" : beneath ? "beneath" : "over"} />
      )}
      {!fits && !inset && !message && (
        <span
          className="why pointer-events-none absolute right-2 bottom-2 rounded-sm bg-sheet/85 px-2 py-0.5"
          role="status"
        >
          {t.tracing}
        </span>
      )}
      {message && (
        <p
          className="absolute inset-x-6 bottom-4 mx-auto max-w-md rounded-sm border border-warn bg-sheet px-3 py-2 text-center"
          role="alert"
        >
          {message}
        </p>
      )}
    </>
  );
}

const PLACES = {
  corner: "right-0 bottom-0 w-[38%] border border-lamp shadow-xl",
  beneath: "inset-0 -z-10 h-full w-full",
  over: "inset-0 h-full w-full",
};

function FrameCanvas({ frame, place }: { frame: Frame; place: "corner" | "beneath" | "over" }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { picture, region = [0, 0, 1, 1] as Region, samples } = frame;
  const width = Math.round(picture.width / (region[2] - region[0]));
  const height = Math.round(picture.height / (region[3] - region[1]));
  useLayoutEffect(() => {
    const target = canvas.current!;
    // Setting a size clears the canvas, so only when it is another one.
    if (target.width !== width || target.height !== height) Object.assign(target, { width, height });
    const context = target.getContext("2d")!;
    context.clearRect(0, 0, width, height);
    context.drawImage(picture, Math.round(region[0] * width), Math.round(region[1] * height));
  }, [picture, region, width, height]);
  return (
    <canvas
      ref={canvas}
      data-traced={samples}
      aria-label={t.tracedPictureSamples(samples)}
      className={`pointer-events-none absolute ${PLACES[place]}`}
    />
  );
}

/** Lets one drag a frame over the picture: only what lies inside is traced from then on, or the shot is cropped to it. */
export function RegionDrag({ onCrop }: { onCrop: (region: Region) => void }) {
  const cropping = useDesk((state) => state.cropping);
  const drawing = useDesk((state) => state.drawingRegion) || cropping;
  const region = useDesk((state) => state.region);
  const start = useRef<[number, number]>(undefined);
  const box = useRef<HTMLDivElement>(null);
  const place = (event: React.PointerEvent): [number, number] => {
    const area = event.currentTarget.getBoundingClientRect();
    const share = (value: number, from: number, size: number) =>
      Math.min(1, Math.max(0, (value - from) / size));
    return [share(event.clientX, area.left, area.width), share(event.clientY, area.top, area.height)];
  };
  const spanned = (event: React.PointerEvent): Region => {
    const [x, y] = place(event);
    const [x0, y0] = start.current!;
    return [Math.min(x, x0), Math.min(y, y0), Math.max(x, x0), Math.max(y, y0)];
  };
  const outline = (area: Region | undefined) => {
    if (!box.current) return;
    const [left, top, right, bottom] = area ?? [0, 0, 0, 0];
    Object.assign(box.current.style, {
      display: area ? "block" : "none",
      left: `${left * 100}%`,
      top: `${top * 100}%`,
      width: `${(right - left) * 100}%`,
      height: `${(bottom - top) * 100}%`,
    });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: the outline follows the region
  useEffect(() => outline(region), [region]);
  return (
    <div
      className={`absolute inset-0 ${drawing ? "cursor-crosshair touch-none" : "pointer-events-none"}`}
      data-region={drawing ? "drawing" : region ? "set" : "none"}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        start.current = place(event);
      }}
      onPointerMove={(event) => start.current && outline(spanned(event))}
      onPointerUp={(event) => {
        if (!start.current) return;
        const area = spanned(event);
        start.current = undefined;
        const large = area[2] - area[0] > 0.02 && area[3] - area[1] > 0.02;
        if (!large) outline(region);
        if (cropping) {
          outline(region);
          useDesk.setState({ cropping: false });
          if (large) onCrop(area);
          return;
        }
        useDesk.setState({ drawingRegion: false, ...(large && { region: area }) });
      }}
    >
      <div ref={box} className="absolute hidden border border-lamp border-dashed" />
    </div>
  );
}
