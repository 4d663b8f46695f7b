/** Words of drawer/model/ModelCard.tsx. */
export const orientation = "Orientation";
export const asInTheFile = "as in the file";
export const aQuarterTurnAbout = (axis: string | number) => `A quarter turn about ${axis}`;
export const onTheFloor = "On the floor";
export const thenClickTheFace = "Then click the face that shall point down";
export const setFaceDown = "Set face down…";
export const arrowsToShiftIt = "Arrows to shift it and rings to turn it, in the picture";
export const handles = "Handles";
export const reset = "Reset";
export const takeOutOfThe = (name: string | number) => `Take ${name} out of the review`;
export const size = "Size";
export const width = "Width";
export const depth = "Depth";
export const height = "Height";
export const workingOutHowIt = "Working out how it can rest…";
export const itRestsInNo = "It rests in no attitude by itself.";
export const stablePositions = "Stable positions";
export const setItDownLike = (share: string | number, tilt: string | number) =>
  `Set it down like this: ${share} of drops end so, tips at ${tilt}°`;
export const restingAttitude = (index: string | number) => `Resting attitude ${index}`;
