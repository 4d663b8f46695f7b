import { useQueryClient } from "@tanstack/react-query";
import type { Edit, Standing } from "../../api/client";
import {
  fittedLighting,
  keepLighting,
  removeKeptLighting,
  startWithLighting,
  useKeptLightings,
} from "../../api/lighting";
import { toast } from "../../api/toast";
import { cameraOf } from "../../state/camera";
import { useDesk } from "../../state/deskStore";
import { freshId } from "../../state/lighting";
import { Button } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import { oneTabStop } from "../../ui/oneTabStop";
import * as t from "../../words/texts/schedules/lights/KeptLightings";

interface Props {
  reviewId: string;
  standing: Standing;
  /** Of the lighting in use. */
  id: string;
  edit: (change: Edit) => void;
}

/** Lightings that are kept for all reviews: taken from this one, used in it, and one that new reviews start with. */
export function KeptLightings({ reviewId, standing, id, edit }: Props) {
  const kept = useKeptLightings().data ?? [];
  const client = useQueryClient();
  const ask = async (work: () => Promise<unknown>, said?: string) => {
    try {
      await work();
      await client.invalidateQueries({ queryKey: ["kept-lightings"] });
      if (said) toast(said);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const camera = () => {
    const { view } = useDesk.getState();
    if (!view) throw new Error(t.thePictureIsNot);
    return cameraOf(view);
  };
  const use = async (one: string) => {
    const { lighting, panoramas, appearances } = await fittedLighting(reviewId, one, camera());
    const key = freshId(standing.scene.lightings, `lighting-${crypto.randomUUID().slice(0, 8)}`);
    const unknown = Object.entries(panoramas).filter(([hash]) => !(hash in standing.scene.panoramas));
    if (unknown.length) edit({ kind: "set_panoramas", panoramas: Object.fromEntries(unknown) });
    edit({ kind: "set_lightings", lightings: { [key]: lighting }, show: key, define: appearances });
  };
  const name = standing.scene.lightings[id]!.name;
  return (
    <details className="flex flex-col gap-1.5">
      <summary className="why cursor-pointer">
        {t.keptForAllReviews(kept.length ? `, ${kept.length}` : "")}
      </summary>
      <ul ref={oneTabStop} className="mt-1.5 flex flex-col gap-1" aria-label={t.keptLightings}>
        {kept.map((one) => (
          <li key={one.id} data-row={one.name} className="flex items-center gap-1.5">
            <span className="min-w-0 flex-1 truncate">{one.name}</span>
            <Hint text={t.addItHereSized}>
              <Button aria-label={t.use(one.name)} onClick={() => ask(() => use(one.id))}>
                {t.use2}
              </Button>
            </Hint>
            <Hint text={one.is_start ? t.newReviewsStartWith : t.letNewReviewsStart}>
              <Button
                look={one.is_start ? "ink" : "plain"}
                aria-pressed={one.is_start}
                aria-label={t.startWith(one.name)}
                onClick={() => ask(() => startWithLighting(one.is_start ? null : one.id))}
              >
                {t.start}
              </Button>
            </Hint>
            <Button aria-label={t.remove(one.name)} onClick={() => ask(() => removeKeptLighting(one.id))}>
              {t.remove2}
            </Button>
          </li>
        ))}
        <li>
          <Button
            look="mark"
            onClick={() => ask(() => keepLighting(reviewId, id, camera()), t.isKeptUseIt(name))}
          >
            {t.keep(name)}
          </Button>
        </li>
      </ul>
    </details>
  );
}
