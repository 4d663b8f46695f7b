import { useRef, useState } from "react";
import type { StillLine } from "../api/client";
import { cropStill } from "../api/stills";
import { toast } from "../api/toast";
import { Button, Choice, NumberField } from "../ui/controls";
import * as t from "../words/texts/stills/CropStill";
import { covers, dragged, type Frame, moved, regionOf, SHAPES, sized } from "./cropFrame";

/** Of a side, px. */
const LEAST = 64;

interface Props {
  still: StillLine;
  onEnd: (made?: string) => void;
}

/** Over a still that is shown whole: drag a frame, or type its size, and keep what is inside as one more still. */
export function CropStill({ still, onEnd }: Props) {
  const [shape, setShape] = useState("free");
  const [frame, setFrame] = useState<Frame>();
  const [busy, setBusy] = useState(false);
  const grip = useRef<{ from: [number, number]; frame?: Frame }>(undefined);
  const ratio = SHAPES.find(([name]) => name === shape)?.[2];
  const pixel = (event: React.PointerEvent): [number, number] => {
    const box = event.currentTarget.getBoundingClientRect();
    return [
      ((event.clientX - box.left) / box.width) * still.width,
      ((event.clientY - box.top) / box.height) * still.height,
    ];
  };
  const large = frame !== undefined && frame.width >= LEAST && frame.height >= LEAST;
  const keep = async (trace: boolean) => {
    setBusy(true);
    try {
      const made = await cropStill(still.id, regionOf(frame!, still), trace);
      toast(trace ? t.thePartIsQueued : t.thePartIsKept);
      onEnd(made.id);
    } catch (problem) {
      toast.error((problem as Error).message);
      setBusy(false);
    }
  };
  const share = (value: number, whole: number) => `${(100 * value) / whole}%`;
  return (
    <>
      <div
        className="absolute inset-0 cursor-crosshair touch-none"
        data-cropping={large ? "framed" : "open"}
        onPointerDown={(event) => {
          event.stopPropagation();
          event.currentTarget.setPointerCapture(event.pointerId);
          const from = pixel(event);
          grip.current = { from, frame: frame && covers(frame, from) ? frame : undefined };
        }}
        onPointerMove={(event) => {
          event.stopPropagation();
          if (!grip.current) return;
          const { from, frame: held } = grip.current;
          const to = pixel(event);
          setFrame(
            held ? moved(held, [to[0] - from[0], to[1] - from[1]], still) : dragged(from, to, still, ratio),
          );
        }}
        onPointerUp={() => {
          grip.current = undefined;
        }}
      >
        {frame && (
          <div
            className="absolute cursor-move border border-lamp shadow-[0_0_0_9999px_rgba(20,22,24,0.55)]"
            style={{
              left: share(frame.x, still.width),
              top: share(frame.y, still.height),
              width: share(frame.width, still.width),
              height: share(frame.height, still.height),
            }}
          />
        )}
      </div>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the picture behind shall not take these presses */}
      <div
        onPointerDown={(event) => event.stopPropagation()}
        onDoubleClick={(event) => event.stopPropagation()}
        className="fixed inset-x-0 bottom-4 z-10 mx-auto flex w-fit items-center gap-4 rounded-md border border-rule-strong bg-paper px-3.5 py-2 shadow-sm"
      >
        <div className="w-36">
          <Choice
            label={t.shape}
            value={shape}
            choices={SHAPES.map(([name, words]) => [name, words] as const)}
            onChange={(name) => {
              setShape(name);
              const wanted = SHAPES.find((one) => one[0] === name)?.[2];
              if (frame && wanted)
                setFrame(dragged([frame.x, frame.y], [frame.x + frame.width, frame.y], still, wanted));
            }}
          />
        </div>
        {frame ? (
          <div className="flex w-56 items-center gap-2">
            <NumberField
              label={t.widthOfThePart}
              unit="px"
              value={frame.width}
              onCommit={(width) =>
                setFrame(sized(frame, { width, ...(ratio && { height: width / ratio }) }, still))
              }
            />
            <span className="text-ink-2">x</span>
            <NumberField
              label={t.heightOfThePart}
              unit="px"
              value={frame.height}
              onCommit={(height) =>
                setFrame(sized(frame, { height, ...(ratio && { width: height * ratio }) }, still))
              }
            />
          </div>
        ) : (
          <span className="w-56 text-ink-2">{t.dragAFrameOn}</span>
        )}
        <Button look="mark" disabled={!large || busy} onClick={() => keep(false)}>
          {t.keepThesePixels}
        </Button>
        <Button disabled={!large || busy} onClick={() => keep(true)}>
          {t.traceItAtFull}
        </Button>
        <Button onClick={() => onEnd()}>{t.cancel}</Button>
      </div>
    </>
  );
}
