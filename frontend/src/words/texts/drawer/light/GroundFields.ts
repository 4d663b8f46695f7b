/** Words of drawer/light/GroundFields.tsx. */
export const theirLowerPartLies = "Their lower part lies on the floor";
export const takenFromAHeight = "Taken from a height of";
export const groundReaches = "Ground reaches";
export const toTheRight = "to the right";
export const toTheBack = "to the back";
export const slide = (way: string | number) => `Slide ${way}`;
export const aLowHeightMakes =
  "A low height makes the place large beside the product. Rotate turns it. Seen in the traced picture and in stills.";
