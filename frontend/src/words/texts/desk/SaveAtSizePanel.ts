/** Words of desk/SaveAtSizePanel.tsx. */
export const png = "PNG";
export const jpeg = "JPEG";
export const webp = "WebP";
export const tracedOnInThe = (noise: string | number) =>
  `The view is traced at full size in the background, until its noise is ${noise}, and saved when that is done.`;
export const format = "Format";
export const keepItAmongThe = "Keep it among the stills";
export const saveX = (width: string | number, height: string | number) => `Save ${width} x ${height}`;
export const fileName = (review: string | number, shot: string | number) => `${review}, ${shot}`;
export const tracingItIsSaved = (width: string | number, height: string | number) =>
  `Tracing ${width} x ${height}. It is saved when it is done; the desk stays free.`;
