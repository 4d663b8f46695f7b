/** Words of drawer/LayingFields.tsx. */
export const eachFaceByIts = "each face by its own shape";
export const alongOneDirection = "along one direction";
export const roundAnAxis = "round an axis";
export const fromSixSides = "from six sides";
export const texturePlacement = "Texture placement";
export const picturesLie = "Pictures lie";
export const trueSizeAtRadius = "True size at radius";
export const radiusOfTrueSize = "Radius of true size";
export const putTheHandlesAway = "Put the handles away";
export const handles = "Handles";
export const reset = "Reset";
export const oneFrameForA = (parts: string | number) =>
  `One frame for ${parts}: a pattern runs on from one to the next.`;
export const selectSeveralPartsFirst = "Select several parts first, and one pattern runs on across them.";
