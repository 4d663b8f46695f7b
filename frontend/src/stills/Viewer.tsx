import { ChevronLeft, ChevronRight, Crop, X } from "lucide-react";
import { Dialog } from "radix-ui";
import { useCallback, useEffect, useRef, useState } from "react";
import type { StillLine } from "../api/client";
import { previewOf } from "../api/stills";
import { IconButton } from "../ui/controls";
import * as t from "../words/texts/stills/Viewer";
import { CropStill } from "./CropStill";
import { Detail } from "./Detail";

interface Props {
  stills: StillLine[];
  id: string;
  onShow: (id: string | undefined) => void;
  /** A part of the still that is shown was made a still of its own. */
  onMade: () => Promise<unknown>;
}

interface Look {
  /** Screen pixels to a picture pixel; 0: fitted. */
  scale: number;
  x: number;
  y: number;
}

const FITTED: Look = { scale: 0, x: 0, y: 0 };
const MOST = 16;

/** As large as there is room for beside the line of the crop. */
const beside = ({ width, height }: StillLine): React.CSSProperties => ({
  aspectRatio: `${width} / ${height}`,
  width: `min(96vw, calc((100vh - 46px - 96px) * ${width / height}))`,
});

/** A still as large as the window: the wheel zooms at the pointer, a double click shows it at 100 %, a drag moves it. */
export function Viewer({ stills, id, onShow, onMade }: Props) {
  const place = stills.findIndex((one) => one.id === id);
  const still = stills[place];
  const area = useRef<HTMLDivElement>(null);
  const [look, setLook] = useState(FITTED);
  const [cropping, setCropping] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another still begins fitted
  useEffect(() => {
    setLook(FITTED);
    setCropping(false);
  }, [id]);
  const crop = () => {
    setLook(FITTED);
    setCropping((now) => !now);
  };
  const step = (by: number) => {
    const next = stills[(place + by + stills.length) % stills.length];
    if (next) onShow(next.id);
  };
  const wholeScale = useCallback(() => {
    const box = area.current!.getBoundingClientRect();
    return still ? Math.min(box.width / still.width, box.height / still.height) : 1;
  }, [still]);
  /** Another scale, holding what lies under a point of the window. */
  const zoomed = useCallback(
    (before: Look, scale: number, clientX: number, clientY: number): Look => {
      const box = area.current!.getBoundingClientRect();
      const least = wholeScale();
      const was = before.scale || least;
      const now = Math.min(MOST, scale);
      if (now <= least) return FITTED;
      const [x, y] = [clientX - box.left - box.width / 2, clientY - box.top - box.height / 2];
      return { scale: now, x: x - ((x - before.x) * now) / was, y: y - ((y - before.y) * now) / was };
    },
    [wholeScale],
  );
  const onWheel = useCallback(
    (event: WheelEvent) => {
      event.preventDefault();
      const factor = Math.exp(-event.deltaY * 0.0015);
      setLook((now) => zoomed(now, (now.scale || wholeScale()) * factor, event.clientX, event.clientY));
    },
    [zoomed, wholeScale],
  );
  const listen = useCallback(
    (element: HTMLDivElement | null) => {
      area.current?.removeEventListener("wheel", onWheel);
      area.current = element;
      element?.addEventListener("wheel", onWheel, { passive: false });
    },
    [onWheel],
  );
  if (!still) return null;
  const shown = look.scale
    ? { width: still.width * look.scale, height: still.height * look.scale, maxWidth: "none" }
    : { maxWidth: "100%", maxHeight: "100%" };
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onShow(undefined)}>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          tabIndex={-1}
          onOpenAutoFocus={(event) => {
            // The keys act on the whole: no button is the first.
            event.preventDefault();
            (event.currentTarget as HTMLElement).focus();
          }}
          className="fixed inset-0 z-50 flex flex-col bg-mat"
          onEscapeKeyDown={(event) => {
            if (!cropping) return;
            event.preventDefault();
            setCropping(false);
          }}
          onKeyDown={(event) => {
            if (event.target instanceof HTMLInputElement || event.target instanceof HTMLSelectElement) return;
            if (event.key === "c" && still.developable && !event.ctrlKey) crop();
            else if (cropping) return;
            else if (event.key === "ArrowRight") step(1);
            else if (event.key === "ArrowLeft") step(-1);
            else if (event.key === "1") setLook({ scale: 1, x: 0, y: 0 });
            else if (event.key === "0") setLook(FITTED);
            else return;
            event.preventDefault();
          }}
        >
          <header className="flex h-[46px] shrink-0 items-center gap-3 bg-sheet px-3.5">
            <Dialog.Title className="font-semibold">{still.name}</Dialog.Title>
            <span className="figures text-ink-2">
              {still.width} x {still.height} · {Math.round((look.scale || 0) * 100) || t.fitted}
              {look.scale ? " %" : ""}
            </span>
            <span className="why">{t.of1Shows100(place + 1, stills.length)}</span>
            <span className="flex-1" />
            {still.state === "done" && still.developable && (
              <IconButton label={t.crop} keys="C" aria-pressed={cropping} onClick={crop}>
                <Crop size={16} />
              </IconButton>
            )}
            <IconButton label={t.theStillBefore} keys="←" onClick={() => step(-1)}>
              <ChevronLeft size={16} />
            </IconButton>
            <IconButton label={t.theNextStill} keys="→" onClick={() => step(1)}>
              <ChevronRight size={16} />
            </IconButton>
            <IconButton label={t.close} keys="Esc" onClick={() => onShow(undefined)}>
              <X size={16} />
            </IconButton>
          </header>
          {/* biome-ignore lint/a11y/noStaticElementInteractions: the keys 0 and 1 do the same */}
          <div
            ref={listen}
            className={`relative grid min-h-0 flex-1 touch-none place-items-center overflow-hidden ${look.scale ? "cursor-grab" : ""}`}
            onDoubleClick={(event) =>
              setLook((now) => (now.scale ? FITTED : zoomed(now, 1, event.clientX, event.clientY)))
            }
            onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
            onPointerMove={(event) => {
              if (event.buttons !== 1) return;
              setLook((now) =>
                now.scale ? { ...now, x: now.x + event.movementX, y: now.y + event.movementY } : now,
              );
            }}
          >
            {cropping ? (
              <div className="relative mb-16" style={beside(still)}>
                <img alt={still.name} draggable={false} className="h-full w-full" src={previewOf(still)} />
                <CropStill
                  still={still}
                  onEnd={async (made) => {
                    setCropping(false);
                    if (made === undefined) return;
                    await onMade();
                    onShow(made);
                  }}
                />
              </div>
            ) : (
              <>
                <img
                  alt={still.name}
                  draggable={false}
                  src={previewOf(still)}
                  style={{
                    ...shown,
                    transform: `translate(${look.x}px, ${look.y}px)`,
                    imageRendering: look.scale > 1.5 ? "pixelated" : "auto",
                  }}
                />
                <Detail {...{ still, area, ...look }} />
              </>
            )}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
