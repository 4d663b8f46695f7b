import { ChevronDown } from "lucide-react";
import { useState } from "react";
import type { Edit, Standing } from "../api/client";
import { sameView } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { Hint } from "../ui/Hint";
import { later } from "../ui/later";
import { Popup } from "../ui/Popup";
import * as t from "../words/texts/desk/TakeStill";
import { noiseAccepted, USUAL, untilWords, useTakeStill } from "./takingStills";

const StillOptions = later(() => import("./StillOptions"), "StillOptions");

interface Props {
  reviewId: string;
  standing: Standing;
  shotId: string;
  edit: (change: Edit) => void;
}

/** The one primary button, with size and quality beside it. */
export function TakeStill({ reviewId, standing, shotId, edit }: Props) {
  const take = useTakeStill(reviewId, standing, shotId);
  const shot = standing.scene.shots[shotId]!;
  const view = useDesk((state) => state.view);
  const accepted = useDesk((state) => state.stillNoise);
  const [open, setOpen] = useState(false);
  const [wish, setWish] = useState(USUAL);
  const { quality, minutes, byKind } = wish;
  const until = accepted === undefined && wish.way === "minutes" ? { minutes } : noiseAccepted();
  const moved = view && !sameView(view, shot.camera);
  return (
    <div className="flex" data-guide="still">
      <Hint
        text={t.takeAStillOf(
          shot.name,
          shot.width,
          shot.height,
          untilWords(until) ?? quality,
          moved ? t.theDeskShowsAnotherView : "",
        )}
        keys="T"
      >
        <button
          type="button"
          className="h-8 cursor-pointer rounded-l-md bg-ink px-3.5 font-semibold text-white hover:bg-ink/90"
          onClick={() => take(quality, undefined, until, false, byKind)}
        >
          {moved ? t.takeStillOfThe : t.takeStill}
        </button>
      </Hint>
      <Popup
        label={t.sizeAndQualityOf}
        open={open}
        onOpen={setOpen}
        className="w-[300px] gap-2.5 p-3.5"
        button={
          <button
            type="button"
            aria-label={t.sizeAndQualityOf}
            className="h-8 cursor-pointer rounded-r-md border-l border-white/30 bg-ink px-2 text-white hover:bg-ink/90"
          >
            <ChevronDown size={15} />
          </button>
        }
      >
        <StillOptions
          {...{ reviewId, standing, shotId, wish, until, take, edit }}
          change={(part) => setWish((before) => ({ ...before, ...part }))}
          onClose={() => setOpen(false)}
        />
      </Popup>
    </div>
  );
}
