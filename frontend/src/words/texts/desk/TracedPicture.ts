/** Words of desk/TracedPicture.tsx. */
export const tracing = "tracing…";
export const tracedPictureSamples = (samples: string | number) => `Traced picture, ${samples} samples`;
