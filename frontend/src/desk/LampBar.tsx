import type { Shot } from "../api/client";
import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { Button } from "../ui/controls";
import { Hint } from "../ui/Hint";
import type { PictureForm } from "../viewport/canvasFile";
import type { Stage } from "../viewport/stage";
import * as t from "../words/texts/desk/LampBar";
import { DESK } from "./lamp";
import { SaveAtSize } from "./SaveAtSize";
import { saveFile } from "./saving";

interface Props {
  reviewId: string;
  name: string;
  stage?: Stage;
  shotId: string;
  shot: Shot;
}

/** What can be done with the picture that is on the desk. */
export function LampBar({ reviewId, name, stage, shotId, shot }: Props) {
  const { width = 1280 } = shot;
  const { lamp, lampPaused, region, drawingRegion, inset, view } = useDesk();
  return (
    <div className="flex flex-wrap items-center justify-end gap-1.5">
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
          <Button className="rounded-r-none border-r-0" onClick={() => savePicture(name, stage, width)}>
            {t.savePicture}
          </Button>
        </Hint>
        <Hint text={t.saveItAsJpeg}>
          <Button className="rounded-none border-r-0" onClick={() => savePicture(name, stage, width, "jpeg")}>
            {t.jpeg}
          </Button>
        </Hint>
        <Hint text={t.saveItAsWebp}>
          <Button className="rounded-none border-r-0" onClick={() => savePicture(name, stage, width, "webp")}>
            {t.webp}
          </Button>
        </Hint>
        <SaveAtSize {...{ reviewId, name, shotId, shot }} />
      </span>
    </div>
  );
}

export function toggleRegion() {
  useDesk.setState((desk) =>
    desk.region ? { region: undefined } : { drawingRegion: !desk.drawingRegion, inset: undefined },
  );
}

/** The traced picture when there is one, developed anew; else the shaded one, at least so many pixels wide. */
export async function savePicture(
  name: string,
  stage: Stage | undefined,
  width: number,
  form: PictureForm = "png",
) {
  try {
    const traced = useDesk.getState().frame !== undefined;
    const picture = traced ? await tracedPicture(form) : await stage?.snapshot(form, width);
    if (!picture) return;
    saveFile(picture, `${name}, ${traced ? t.traced : t.shaded}`, form);
  } catch (problem) {
    toast.error((problem as Error).message);
  }
}

async function tracedPicture(form: string): Promise<Blob> {
  const reply = await fetch(`/api/lamp/${DESK}/picture?form=${form}`);
  if (!reply.ok) throw new Error((await reply.json()).detail);
  return reply.blob();
}
