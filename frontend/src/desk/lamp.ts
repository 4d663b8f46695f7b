import { useEffect, useMemo, useSyncExternalStore } from "react";
import type { Camera, Standing } from "../api/client";
import { cameraOf, type View } from "../state/camera";
import { type Frame, useDesk } from "../state/deskStore";
import * as t from "../words/texts/desk/lamp";

/** Names this tab's pictures to the server, which keeps a traced one for each. */
export const DESK = crypto.randomUUID();
const BESIDE = crypto.randomUUID();
/** A moving view is traced once it has rested this long, in milliseconds. */
const REST = 140;
/** After a failure, ask again. */
const AGAIN = 1500;
const MOST_PIXELS = 1_000_000;

export interface Size {
  width: number;
  height: number;
}

/** Pixels to trace for a picture of this size on the screen. */
export function tracedSize({ width, height }: Size, density: number): Size {
  const scale = Math.min(density, Math.sqrt(MOST_PIXELS / Math.max(1, width * height)));
  return { width: Math.round(width * scale), height: Math.round(height * scale) };
}

/** What the frames of a view have in common: while it is the same, an older frame may stay in sight. */
export function viewKeyOf(camera: Camera, size: Size): string {
  return JSON.stringify([camera, size]);
}

interface Wanted {
  reviewId: string;
  standing: Standing;
  shotId: string;
  shown: Size;
  /** Another look than the one that is shown: the picture beside. */
  beside?: string;
  /** Another lighting than the shot's: the picture beside. */
  lighting?: string;
  /** Another view than the desk's: the picture beside. */
  from?: View;
}

/** While the lamp is on, asks for one frame after the other and puts them on the desk. Returns the present view's key. */
export function useLampFrames({ reviewId, standing, shotId, shown, beside, lighting, from }: Wanted): string {
  const aside = beside !== undefined || lighting !== undefined || from !== undefined;
  const { lamp, lampPaused, region, inset, view, luminance } = useDesk();
  const looking = from ?? (aside ? undefined : inset) ?? view;
  const [desk, slot] = aside ? ([BESIDE, "besideFrame"] as const) : ([DESK, "frame"] as const);
  const size = tracedSize(shown, window.devicePixelRatio);
  const { width, height } = size;
  const camera = useMemo(() => looking && cameraOf(looking), [looking]);
  const viewKey = camera ? viewKeyOf(camera, { width, height }) : "";
  const seen = useSyncExternalStore(onVisibility, () => document.visibilityState !== "hidden");

  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for camera and size
  useEffect(() => {
    // A tab that nobody sees asks for nothing: a browser opens only six connections to a host.
    if (!lamp || !seen || !camera || width < 16 || height < 16) return;
    const stop = new AbortController();
    const wish = {
      desk,
      look: beside ?? null,
      lighting: lighting ?? null,
      seq: standing.seq,
      shot: shotId,
      camera,
      width,
      height,
      region: region ?? [0, 0, 1, 1],
      paused: lampPaused,
      shows: luminance ? "luminance" : "picture",
    };
    const rest = useDesk.getState()[slot]?.viewKey === viewKey ? 0 : REST;
    follow(`/api/reviews/${reviewId}/lamp`, wish, rest, stop.signal, {
      show: (picture, facts) =>
        useDesk.setState({ [slot]: { picture, viewKey, region, ...facts }, lampMessage: undefined }),
      refuse: (why) => useDesk.setState({ [slot]: undefined, lampMessage: why }),
      wait: (why) => useDesk.setState({ lampMessage: why }),
    });
    return () => stop.abort();
  }, [lamp, seen, lampPaused, region, viewKey, reviewId, shotId, standing.seq, beside, lighting, luminance]);

  useEffect(() => {
    if (!lamp) return;
    const off = () =>
      fetch(`/api/lamp/${desk}`, { method: "DELETE", keepalive: true }).catch(() => undefined);
    window.addEventListener("pagehide", off);
    return () => {
      window.removeEventListener("pagehide", off);
      off();
      useDesk.setState({ [slot]: undefined, lampMessage: undefined });
    };
  }, [lamp, desk, slot]);
  return viewKey;
}

function onVisibility(changed: () => void) {
  document.addEventListener("visibilitychange", changed);
  return () => document.removeEventListener("visibilitychange", changed);
}

type Facts = Pick<Frame, "samples" | "grain" | "shares" | "outline" | "metered" | "scale" | "remark">;

export async function follow(
  url: string,
  wish: object,
  rest: number,
  signal: AbortSignal,
  told: {
    show: (picture: ImageBitmap, facts: Facts) => void;
    /** There is no picture of what the desk shows now: an older one would be of something else. */
    refuse: (why: string) => void;
    /** There will be one: until then the older one stays in sight. */
    wait: (why: string) => void;
  },
) {
  let have = "";
  await pause(rest);
  while (!signal.aborted) {
    try {
      const reply = await fetch(url, {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ ...wish, have }),
        signal,
      });
      if (reply.status === 204) continue;
      if (!reply.ok) {
        const problem = await reply.json().catch(() => undefined);
        if (signal.aborted) return;
        const why = problem?.detail ?? t.theServerAnswered(reply.status);
        if (reply.status === 409) told.refuse(why);
        else told.wait(why);
        have = reply.headers.get("X-Frame") ?? "";
        if (!have) await pause(AGAIN);
        continue;
      }
      have = reply.headers.get("X-Frame") ?? "";
      const grain = reply.headers.get("X-Grain");
      const picture = await createImageBitmap(await reply.blob());
      if (signal.aborted) return;
      told.show(picture, {
        samples: Number(reply.headers.get("X-Samples")),
        grain: grain === null ? undefined : Number(grain),
        shares: JSON.parse(reply.headers.get("X-Shares") ?? "null") ?? undefined,
        outline: JSON.parse(reply.headers.get("X-Outline") ?? "null") ?? undefined,
        metered: JSON.parse(reply.headers.get("X-Metered") ?? "null") ?? undefined,
        scale: JSON.parse(reply.headers.get("X-Scale") ?? "null") ?? undefined,
        remark: decodeURIComponent(reply.headers.get("X-Remark") ?? "") || undefined,
      });
    } catch {
      if (!signal.aborted) await pause(AGAIN);
    }
  }
}

function pause(milliseconds: number) {
  return new Promise<void>((done) => setTimeout(done, milliseconds));
}
