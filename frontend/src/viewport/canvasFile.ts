export type PictureForm = "png" | "jpeg" | "webp";

/** What a canvas shows, as a file. Throws where the browser cannot make one. */
export async function fileOf(canvas: HTMLCanvasElement, form: PictureForm): Promise<Blob> {
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, `image/${form}`, 0.92));
  if (!blob) throw new Error("The browser could not make a picture of the desk.");
  return blob;
}
