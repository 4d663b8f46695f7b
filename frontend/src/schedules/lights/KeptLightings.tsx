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
import { Button, Hint } from "../../ui/controls";

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
    if (!view) throw new Error("The picture is not there yet.");
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
        Kept for all reviews{kept.length ? `, ${kept.length}` : ""}
      </summary>
      <ul className="mt-1.5 flex flex-col gap-1" aria-label="Kept lightings">
        {kept.map((one) => (
          <li key={one.id} className="flex items-center gap-1.5">
            <span className="min-w-0 flex-1 truncate">{one.name}</span>
            <Hint text="Add it here, sized to this product and turned to this view">
              <Button aria-label={`Use ${one.name}`} onClick={() => ask(() => use(one.id))}>
                Use
              </Button>
            </Hint>
            <Hint
              text={
                one.is_start
                  ? "New reviews start with it; click for ours again"
                  : "Let new reviews start with it"
              }
            >
              <Button
                look={one.is_start ? "ink" : "plain"}
                aria-pressed={one.is_start}
                aria-label={`Start with ${one.name}`}
                onClick={() => ask(() => startWithLighting(one.is_start ? null : one.id))}
              >
                Start
              </Button>
            </Hint>
            <Button aria-label={`Remove ${one.name}`} onClick={() => ask(() => removeKeptLighting(one.id))}>
              Remove
            </Button>
          </li>
        ))}
        <li>
          <Button
            look="mark"
            onClick={() =>
              ask(
                () => keepLighting(reviewId, id, camera()),
                `${name} is kept: use it in other reviews under Lights.`,
              )
            }
          >
            Keep “{name}”
          </Button>
        </li>
      </ul>
    </details>
  );
}
