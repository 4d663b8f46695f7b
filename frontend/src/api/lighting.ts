import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { send } from "./appearance";
import {
  api,
  type Camera,
  type Lamp,
  type LampKind,
  type LampSet,
  type Lighting,
  type Schemas,
  taken,
} from "./client";

const at = (review_id: string) => ({ params: { path: { review_id } } });

/** Surroundings that ship with the application, by the names that lightings keep. */
export function useSurroundings() {
  return useQuery({
    queryKey: ["surroundings"],
    queryFn: () => taken<Schemas["SurroundingsList"]>(api.GET("/api/surroundings")),
    select: (found) => found.surroundings,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** The floor of a shot, in its own lighting or another, where it wears an appearance or is a sweep; as of a step of the
 * review. */
export function useGround(
  review_id: string,
  shot_id: string,
  seq: number,
  wanted: boolean,
  lighting?: string,
) {
  return useQuery({
    queryKey: ["ground", review_id, shot_id, seq, lighting],
    queryFn: () =>
      taken<Schemas["GroundAnswer"]>(
        api.GET("/api/reviews/{review_id}/shots/{shot_id}/ground", {
          params: { path: { review_id, shot_id }, query: { lighting } },
        }),
      ),
    enabled: wanted,
    placeholderData: keepPreviousData,
  });
}

export async function newLamp(review: string, kind: LampKind, camera: Camera): Promise<Lamp> {
  const body = { kind, camera };
  return (
    await taken<{ lamp: Lamp }>(api.POST("/api/reviews/{review_id}/lamps/new", { ...at(review), body }))
  ).lamp;
}

export function newLampSet(review: string, set: LampSet, camera: Camera) {
  const body = { set, camera };
  return taken<{ lamps: Record<string, Lamp>; brightness: number }>(
    api.POST("/api/reviews/{review_id}/lamps/set", { ...at(review), body }),
  );
}

/** A luminaire by the text of its photometric file. Throws in the server's own words. */
export function readPhotometry(review: string, text: string, camera: Camera) {
  const body = { text, camera };
  return taken<Schemas["LampRead"]>(
    api.POST("/api/reviews/{review_id}/lamps/photometric", { ...at(review), body }),
  );
}

export async function pointedLamp(review: string, body: Schemas["PointWish"]): Promise<Lamp> {
  return (
    await taken<{ lamp: Lamp }>(api.POST("/api/reviews/{review_id}/lamps/pointed", { ...at(review), body }))
  ).lamp;
}

export async function shiningTurn(body: Schemas["ShineWish"]): Promise<number> {
  return (await taken<{ turn: number }>(api.POST("/api/shine", { body }))).turn;
}

/** Where the surroundings are brightest, before they are rotated. */
export function useBrightest(lighting: Lighting) {
  const plain = { ...lighting, turn: 0, brightness: 1, backdrop: undefined };
  return useQuery({
    queryKey: ["brightest", JSON.stringify(plain)],
    queryFn: () =>
      taken<Schemas["BrightList"]>(
        api.POST("/api/brightest", { body: { lighting: { ...lighting, turn: 0 } } }),
      ),
    select: (found) => found.directions,
    placeholderData: (before) => before,
    gcTime: 60_000,
  });
}

/** Levels at which one lamp is so much stronger than all other light. Throws in the server's own words. */
export async function balancedLighting(body: Schemas["BalanceWish"]): Promise<Lighting> {
  return (await taken<{ lighting: Lighting }>(api.POST("/api/balance", { body }))).lighting;
}

/** A distant lamp as the sun at a moment and place. Throws where it is below the horizon. */
export async function sunAt(lamp: Lamp, when: Schemas["SunTime"]): Promise<Lamp> {
  return (await taken<{ lamp: Lamp }>(api.POST("/api/sun", { body: { lamp, when } }))).lamp;
}

/** Lightings that were kept for all reviews. */
export function useKeptLightings() {
  return useQuery({
    queryKey: ["kept-lightings"],
    queryFn: () => taken<Schemas["KeptLightings"]>(api.GET("/api/lightings/kept")),
    select: (found) => found.lightings,
  });
}

export function keepLighting(review: string, lighting: string, camera: Camera) {
  const body = { lighting, camera };
  return taken<Schemas["Id"]>(api.POST("/api/reviews/{review_id}/lightings/keep", { ...at(review), body }));
}

/** A kept lighting, sized to the product of a review and turned to the view. */
export function fittedLighting(review: string, kept: string, camera: Camera) {
  const body = { kept, camera };
  return taken<Schemas["LightingFitted"]>(
    api.POST("/api/reviews/{review_id}/lightings/fit", { ...at(review), body }),
  );
}

export const startWithLighting = (kept: string | null) =>
  taken<undefined>(api.PUT("/api/lightings/start", { body: { kept } }));

export const removeKeptLighting = (id: string) =>
  taken<undefined>(api.DELETE("/api/lightings/kept/{kept_id}", { params: { path: { kept_id: id } } }));

/** Sends a panorama as it is. Throws in the server's own words. */
export const keepPanorama = (file: File) => send<Schemas["PanoramaKept"]>("/api/panoramas", file);
