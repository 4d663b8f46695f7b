import { api, type components, type Decal, taken } from "./client";

/** A decal on a spot of a part, upright to the view. Throws in the server's own words. */
export async function placedDecal(review: string, body: components["schemas"]["DecalWish"]): Promise<Decal> {
  const asked = { params: { path: { review_id: review } }, body };
  return (await taken<{ decal: Decal }>(api.POST("/api/reviews/{review_id}/decals/place", asked))).decal;
}
