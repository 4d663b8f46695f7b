import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { Button, Hint } from "../ui/controls";
import type { PictureForm } from "../viewport/canvasFile";
import type { Stage } from "../viewport/stage";
import * as t from "../words/texts/desk/LampBar";
import { DESK } from "./lamp";

/** What can be done with the picture that is on the desk. */
export function LampBar({ name, stage }: { name: string; stage?: Stage }) {
  const { lamp, lampPaused, region, drawingRegion, inset, view } = useDesk();
  return (
    <div className="flex items-center gap-1.5">
      {lamp && (
        <>
          <Hint text={lampPaused ? t.resumeTracing : t.holdThePictureAs} keys="G">
            <Button onClick={() => useDesk.setState({ lampPaused: !lampPaused })}>
              {lampPaused ? t.resume : t.pause}
            </Button>
          </Hint>
          <Hint text={region ? t.traceTheWholePicture : t.dragAFrameOnly} keys="R">
            <Button onClick={toggleRegion} look={drawingRegion ? "mark" : undefined}>
              {region ? t.clearRegion : drawingRegion ? t.dragAFrame : t.region}
            </Button>
          </Hint>
          <Hint text={t.goOnTracingThis}>
            <Button onClick={() => useDesk.setState({ inset: inset ? undefined : view, region: undefined })}>
              {inset ? t.unpin : t.pinThisView}
            </Button>
          </Hint>
        </>
      )}
      <span className="flex">
        <Hint text={t.saveWhatIsOn} keys="Ctrl S">
          <Button className="rounded-r-none border-r-0" onClick={() => keepPicture(name, stage)}>
            {t.savePicture}
          </Button>
        </Hint>
        <Hint text={t.saveItAsJpeg}>
          <Button className="rounded-none border-r-0" onClick={() => keepPicture(name, stage, "jpeg")}>
            {t.jpeg}
          </Button>
        </Hint>
        <Hint text={t.saveItAsWebp}>
          <Button className="rounded-l-none" onClick={() => keepPicture(name, stage, "webp")}>
            {t.webp}
          </Button>
        </Hint>
      </span>
    </div>
  );
}

export function toggleRegion() {
  useDesk.setState((desk) =>
    desk.region ? { region: undefined } : { drawingRegion: !desk.drawingRegion, inset: undefined },
  );
}

/** The traced picture when there is one, developed anew; else the shaded one as it is on the screen. */
export async function keepPicture(name: string, stage?: Stage, form: PictureForm = "png") {
  try {
    const traced = useDesk.getState().frame !== undefined;
    const picture = traced ? await tracedPicture(form) : await stage?.snapshot(form);
    if (!picture) return;
    const link = document.createElement("a");
    link.href = URL.createObjectURL(picture);
    link.download = `${name}, ${traced ? "traced" : "shaded"}.${form === "jpeg" ? "jpg" : form}`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  } catch (problem) {
    toast.error((problem as Error).message);
  }
}

async function tracedPicture(form: string): Promise<Blob> {
  const reply = await fetch(`/api/lamp/${DESK}/picture?form=${form}`);
  if (!reply.ok) throw new Error((await reply.json()).detail);
  return reply.blob();
}
