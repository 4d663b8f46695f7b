import { useQuery } from "@tanstack/react-query";
import { inOwnForm } from "../words/length";
import * as t from "../words/texts/api/stills";
import { api, type Schemas, type Standing, type StillLine, taken } from "./client";
import { type LAYER_GROUPS, LOOKED_AT, PIXELS } from "./generated/facts";
import { actions } from "./queries";

const still = (still_id: string) => ({ params: { path: { still_id } } });
const at = (review_id: string) => ({ params: { path: { review_id } } });

/** The forms in which finished stills are downloaded. */
export const FORMS = [
  ["png", t.png8Bit],
  ["png16", t.png16Bit],
  ["jpeg", "JPEG"],
  ["webp", t.webp],
  ["tiff", t.tiff16Bit],
  ["exr", t.openexrLinear],
] as const;
export type Form = (typeof FORMS)[number][0];
export const PATTERN = "{review} {shot} {look} {size}";

export const takeStills = (review: string, body: Schemas["TakeStills"]) =>
  taken<Schemas["Ids"]>(api.POST("/api/reviews/{review_id}/stills/many", { ...at(review), body }));

/** The same still of the scene as it is now. */
export const takeAgain = (review: string, one: StillLine) =>
  actions.take(review, {
    shot: one.shot_id,
    quality: one.quality,
    width: one.width,
    height: one.height,
    grain: one.grain_asked,
    minutes: one.minutes_asked,
    look: one.look,
    lighting: one.lighting,
    crop: one.crop,
    camera: one.camera,
    by_kind: one.by_kind,
  });

/** A part of a finished still as one more: the pixels that are there, or traced anew as large as the whole. */
export const cropStill = (id: string, region: [number, number, number, number], trace: boolean) =>
  taken<Schemas["Id"]>(api.POST("/api/stills/{still_id}/crop", { ...still(id), body: { region, trace } }));

export const markStill = (id: string, body: { starred?: boolean; note?: string }) =>
  taken(
    api.PATCH("/api/stills/{still_id}", {
      ...still(id),
      body: { starred: body.starred ?? null, note: body.note ?? null },
    }),
  );

/** Traces a finished still on, from where it ended. */
export const traceStillOn = (id: string, quality: StillLine["quality"]) =>
  taken(api.POST("/api/stills/{still_id}/on", { ...still(id), body: { quality, grain: null } }));

const STEPS_FROM = {
  first: ["queued", "paused"],
  pause: ["running", "queued"],
  resume: ["paused", "stopped", "failed"],
  end: ["running", "queued", "paused", "stopped"],
  stop: ["running", "queued", "paused"],
};
export type StillStep = keyof typeof STEPS_FROM;

/** Whether a step is offered for a still: the server decides. */
export const isFor = (step: StillStep, still: Pick<StillLine, "state" | "samples_done">) =>
  STEPS_FROM[step].includes(still.state) && (step !== "end" || still.samples_done > 0);

/** Takes a step with one still after the other. One that refuses, since it has just finished, keeps no other from it;
 * the first refusal is thrown at the end. */
export async function eachInTurn(stills: { id: string }[], step: (id: string) => Promise<unknown>) {
  const refused: unknown[] = [];
  for (const { id } of stills) await step(id).catch((why) => refused.push(why));
  if (refused.length > 0) throw refused[0];
}

export const endStill = (id: string) => taken(api.POST("/api/stills/{still_id}/end", still(id)));

export const putStillFirst = (id: string) => taken(api.POST("/api/stills/{still_id}/first", still(id)));

/** What new reviews start with; null: as shipped. */
export function useFirstShot() {
  return useQuery({
    queryKey: [t.firstShot],
    queryFn: () => taken<Schemas["FirstShotKept"]>(api.GET("/api/settings/first-shot")),
    select: (found) => found.habits,
  });
}

/** Lets new reviews start like a shot, or (none) as shipped. */
export const startLike = (review: string, shot?: string) =>
  shot === undefined
    ? taken(api.DELETE("/api/settings/first-shot"))
    : taken(api.PUT("/api/settings/first-shot", { body: { review, shot } }));

/** A new review with the scene as it was for a still. */
export const openStill = (id: string) =>
  taken<Schemas["Id"]>(api.POST("/api/stills/{still_id}/open", still(id)));

/** Bytes of a PNG in which its scene is found: pixels come after it, and are not needed. */
const HEAD = 50 * 2 ** 20;

/** A new review with the scene that a still's PNG holds. */
export async function openPicture(file: File): Promise<{ id: string }> {
  const reply = await fetch("/api/scenes", {
    method: "POST",
    headers: { "Content-Type": "application/octet-stream" },
    body: file.slice(0, HEAD),
  });
  const answer = await reply.json().catch(() => undefined);
  if (!reply.ok) throw new Error(answer?.detail ?? t.theServerAnswered(reply.status));
  return answer;
}

/** Why a still is out of date, in words, as of a step of the review. */
export function useChanges(id: string, seq: number, wanted: boolean) {
  return useQuery({
    queryKey: ["still changes", id, seq],
    queryFn: () => taken<Schemas["StillChanges"]>(api.GET("/api/stills/{still_id}/changes", still(id))),
    select: (found) => found.changes.map(inOwnForm),
    enabled: wanted,
  });
}

/** Pixels of a side as a still can have them. */
export const boundedSide = (pixels: number) => Math.round(Math.min(PIXELS[1], Math.max(PIXELS[0], pixels)));

/** A width whose height, at `aspect` (width over height), can be had as well. */
export const boundedWidth = (pixels: number, aspect: number) =>
  boundedSide(Math.min(boundedSide(pixels), PIXELS[1] * aspect));

export const previewOf = (one: StillLine) => `/api/stills/${one.id}/preview?v=${one.version}`;

/** For lists: a few hundred pixels wide. */
export const smallPreviewOf = (one: StillLine) => `${previewOf(one)}&small=true`;

/** A part of a still at its full size, in its pixels. */
export const detailOf = (
  one: StillLine,
  part: { left: number; top: number; width: number; height: number },
) =>
  `/api/stills/${one.id}/detail?v=${one.version}&${Object.entries(part)
    .map(([name, pixels]) => `${name}=${pixels}`)
    .join("&")}`;

/** How much smaller a large still is shown. */
export const shownSmaller = (one: StillLine) => Math.ceil(Math.max(one.width, one.height) / LOOKED_AT);

export type LayerGroup = (typeof LAYER_GROUPS)[number];
/** What an OpenEXR file holds beside the picture, its light and its backdrop. */
export interface ExrWish {
  groups: ReadonlySet<LayerGroup>;
  half: boolean;
}

export function fileOf(id: string, form: Form, quality = 92, exr?: ExrWish): string {
  const wish = new URLSearchParams({ form, quality: `${quality}` });
  if (form === "exr" && exr) {
    wish.set("layers", [...exr.groups].join(","));
    wish.set("half", `${exr.half}`);
  }
  return `/api/stills/${id}/picture?${wish}`;
}

export const zipOf = (review: string, ids: string[], form: Form, pattern: string) =>
  `/api/reviews/${review}/stills.zip?${new URLSearchParams({ ids: ids.join(","), form, pattern })}`;

/** What a still was taken in, by the names of now: "Carbon · Dusk yard". */
export function takenIn({ scene }: Standing, one: StillLine): { look: string; lighting: string } {
  const look = (one.look && scene.looks[one.look]?.name) || t.lookRemoved;
  const id = one.lighting ?? scene.shots[one.shot_id]?.lighting ?? scene.lit_by;
  return { look: one.look ? look : "", lighting: scene.lightings[id]?.name ?? t.lightingRemoved };
}
