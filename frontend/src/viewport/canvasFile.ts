import * as t from "../words/texts/viewport/canvasFile";

export type PictureForm = "png" | "jpeg" | "webp";

/** What a canvas shows, as a file. Throws where the browser cannot make one. */
export async function fileOf(canvas: HTMLCanvasElement, form: PictureForm): Promise<Blob> {
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, `image/${form}`, 0.92));
  if (!blob) throw new Error(t.theBrowserCouldNot);
  return blob;
}
