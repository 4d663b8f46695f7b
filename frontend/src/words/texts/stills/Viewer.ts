/** Words of stills/Viewer.tsx. */
export const of1Shows100 = (place: string | number, stills: string | number) =>
  `${place} of ${stills} · 1 shows 100 %, 0 the whole, C crops`;
export const crop = "Crop";
export const theStillBefore = "The still before";
export const theNextStill = "The next still";
export const close = "Close";
export const fitted = "fitted";
