import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { Button, Hint } from "../ui/controls";
import type { PictureForm } from "../viewport/canvasFile";
import type { Stage } from "../viewport/stage";
import { DESK } from "./lamp";

/** What can be done with the picture that is on the desk. */
export function LampBar({ name, stage }: { name: string; stage?: Stage }) {
  const { lamp, lampPaused, region, drawingRegion, inset, view } = useDesk();
  return (
    <div className="flex items-center gap-1.5">
      {lamp && (
        <>
          <Hint text={lampPaused ? "Resume tracing" : "Hold the picture as it is"} keys="G">
            <Button onClick={() => useDesk.setState({ lampPaused: !lampPaused })}>
              {lampPaused ? "Resume" : "Pause"}
            </Button>
          </Hint>
          <Hint
            text={region ? "Trace the whole picture again" : "Drag a frame: only that is traced"}
            keys="R"
          >
            <Button onClick={toggleRegion} look={drawingRegion ? "mark" : undefined}>
              {region ? "Clear region" : drawingRegion ? "Drag a frame…" : "Region"}
            </Button>
          </Hint>
          <Hint text="Go on tracing this view small in the corner while you look around">
            <Button onClick={() => useDesk.setState({ inset: inset ? undefined : view, region: undefined })}>
              {inset ? "Unpin" : "Pin this view"}
            </Button>
          </Hint>
        </>
      )}
      <span className="flex">
        <Hint text="Save what is on the desk now as PNG" keys="Ctrl S">
          <Button className="rounded-r-none border-r-0" onClick={() => keepPicture(name, stage)}>
            Save picture
          </Button>
        </Hint>
        <Hint text="Save it as JPEG: smaller, for mail">
          <Button className="rounded-none border-r-0" onClick={() => keepPicture(name, stage, "jpeg")}>
            JPEG
          </Button>
        </Hint>
        <Hint text="Save it as WebP: smaller still, for pages">
          <Button className="rounded-l-none" onClick={() => keepPicture(name, stage, "webp")}>
            WebP
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
