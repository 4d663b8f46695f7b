import type { Quality, Standing } from "../api/client";
import { actions, useAct } from "../api/queries";
import { toast } from "../api/toast";
import { cameraOf, sameView } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { decimals, percent } from "../words/numbers";
import * as t from "../words/texts/desk/takingStills";

/** How the next still is to be, as far as the desk does not know it, see `stillNoise`. */
export interface StillWish {
  quality: Quality;
  /** 0 for that of the shot. */
  width: number;
  /** What ends it where no noise was asked for. */
  way: "quality" | "minutes";
  /** Percent, as it was asked for last. */
  noise: number;
  minutes: number;
  byKind: boolean;
}

export const USUAL: StillWish = {
  quality: "fair",
  width: 0,
  way: "quality",
  noise: 5,
  minutes: 5,
  byKind: false,
};

/** Takes a still of a shot, or of the view on the desk. */
export function useTakeStill(reviewId: string, standing: Standing | undefined, shotId: string) {
  const act = useAct(["stills", reviewId]);
  return async (
    quality: Quality = "fair",
    size?: { width: number; height: number },
    until: Until | undefined = noiseAccepted(),
    thisView = false,
    byKind = false,
  ) => {
    const shot = standing?.scene.shots[shotId];
    if (!shot) return;
    const { width, height } = size ?? { width: shot.width ?? 1280, height: shot.height ?? 960 };
    const view = useDesk.getState().view;
    const moved = view && !sameView(view, shot.camera);
    const camera = thisView && view ? cameraOf(view) : null;
    try {
      await act(() =>
        actions.take(reviewId, {
          shot: shotId,
          quality,
          width,
          height,
          grain: until?.grain ?? null,
          minutes: until?.minutes ?? null,
          look: null,
          lighting: null,
          crop: null,
          camera,
          by_kind: byKind,
        }),
      );
      useDesk.setState({ sheet: "shots" });
      const elsewhere = camera ? t.theViewOnThe : t.theShotNotThe(shot.name);
      const what = t.tracingX(moved ? elsewhere : "", width, height);
      toast(t.theDeskStaysFree(what, untilWords(until) ?? quality));
    } catch {
      // useAct has said why
    }
  };
}

/** Noise at which a still ends, or how long it is traced, in place of a quality. */
export interface Until {
  grain?: number;
  minutes?: number;
}

/** The noise that the desk accepts for the next stills, if it was asked for one. */
export function noiseAccepted(): Until | undefined {
  const { stillNoise } = useDesk.getState();
  return stillNoise === undefined ? undefined : { grain: stillNoise / 100 };
}

/** The same in words. */
export function untilWords(until?: Until): string | undefined {
  if (until?.grain) return t.untilTheNoiseIs(percent(until.grain, 1));
  return until?.minutes ? t.forMin(decimals(until.minutes, until.minutes < 10 ? 1 : 0)) : undefined;
}
