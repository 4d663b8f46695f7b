import { useQuery } from "@tanstack/react-query";
import { send } from "./appearance";
import { api, type components, type Decal, type Drawing, type Schemas, taken } from "./client";

/** A decal on a spot of a part, upright to the view. Throws in the server's own words. */
export async function placedDecal(review: string, body: components["schemas"]["DecalWish"]): Promise<Decal> {
  const asked = { params: { path: { review_id: review } }, body };
  return (await taken<{ decal: Decal }>(api.POST("/api/reviews/{review_id}/decals/place", asked))).decal;
}

/** What a decal stops at when it is moved over a face of its part. */
export const decalSnaps = (review_id: string, decal_id: string, face: number) =>
  taken<Schemas["Snaps"]>(
    api.GET("/api/reviews/{review_id}/decals/{decal_id}/snaps", {
      params: { path: { review_id, decal_id }, query: { face } },
    }),
  );

/** The face that a decal lies on, by its signature. Throws in the server's own words. */
export async function decalFace(review_id: string, decal_id: string): Promise<string> {
  const path = { params: { path: { review_id, decal_id } } };
  return (await taken<{ face: string }>(api.GET("/api/reviews/{review_id}/decals/{decal_id}/face", path)))
    .face;
}

/** A decal on the opposite side of the wall that it lies on. Throws in the server's own words. */
export async function decalFarSide(review_id: string, decal_id: string): Promise<Decal> {
  const path = { params: { path: { review_id, decal_id } } };
  const asked = api.GET("/api/reviews/{review_id}/decals/{decal_id}/far-side", path);
  return (await taken<{ decal: Decal }>(asked)).decal;
}

/** A decal that follows its face as that unrolls. Throws in the server's own words. */
export async function decalAlongFace(review_id: string, decal_id: string): Promise<Decal> {
  const path = { params: { path: { review_id, decal_id } } };
  const asked = api.GET("/api/reviews/{review_id}/decals/{decal_id}/along-face", path);
  return (await taken<{ decal: Decal }>(asked)).decal;
}

/** The picture of a drawing, and its size in mm. Throws in the server's own words. */
export const drawn = (drawing: Drawing) =>
  taken<Schemas["DrawnPicture"]>(api.POST("/api/drawings", { body: { drawing } }));

/** Keeps a font file for drawings. Throws in the server's own words. */
export const keepFont = (file: File) => send<Schemas["FontKept"]>("/api/fonts", file);

/** A picture without its plain background, by content hash. Throws in the server's own words. */
export async function clearedPicture(clearing: NonNullable<Decal["cleared"]>): Promise<string> {
  return (await taken<Schemas["ClearedPicture"]>(api.POST("/api/pictures/cleared", { body: { clearing } })))
    .picture;
}

/** How sharp a decal is in each shot; asked again whenever the scene changed. */
export function useSharpness(review_id: string, decal_id: string, seq: number) {
  return useQuery({
    queryKey: ["sharpness", review_id, decal_id, seq],
    queryFn: () =>
      taken<Schemas["SharpnessList"]>(
        api.GET("/api/reviews/{review_id}/decals/{decal_id}/sharpness", {
          params: { path: { review_id, decal_id } },
        }),
      ),
    select: (found) => found.shots,
    placeholderData: (before) => before,
    retry: false,
    gcTime: 10_000,
  });
}
