/** Words of drawer/model/PartPlace.tsx. */
export const place = "Place";
export const severalParts = "several parts";
export const chooseOnePartOr =
  "Choose one part, or a whole sub-assembly by its heading, to move it for the picture.";
export const placeOf = (name: string | number) => `Place of ${name}`;
export const asInTheFile = "as in the file";
export const arrowsToShiftIt = "Arrows to shift it and rings to turn it, in the picture";
export const handles = "Handles";
export const reset = "Reset";
