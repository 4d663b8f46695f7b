/** Words of drawer/DecalSharpness.tsx. */
export const itIsDrawnAs = "It is drawn as finely as can be: go less close, or make it smaller.";
export const takeALargerPicture = "Take a larger picture, or an SVG.";
export const ofWord = (pixels: string | number, shot: string | number) => `${pixels} of ${shot}`;
export const onePixelOfIt = (shots: string | number) => `One pixel of it covers ${shots}.`;
export const itWillLookSoft = (soft: string | number, cure: string | number) =>
  ` It will look soft in ${soft}. ${cure}`;
