import { api, type Camera, type Schemas, taken } from "./client";

/** A camera that shows a part of a frame alone, and that frame in pixels. Throws in the server's own words. */
export const croppedShot = (body: Schemas["CropWish"]) =>
  taken<{ camera: Camera; width: number; height: number }>(api.POST("/api/shots/cropped", { body }));

/** The white balance under which a colour of the picture is grey. Throws in the server's own words. */
export const whiteFromGrey = (color: string, white: number) =>
  taken<Schemas["WhiteFound"]>(api.POST("/api/shots/white", { body: { color, white } }));
