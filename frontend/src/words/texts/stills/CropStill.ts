/** Words of stills/CropStill.tsx. */
export const thePartIsQueued = "The part is queued, as large as the whole.";
export const thePartIsKept = "The part is kept as one more still.";
export const shape = "Shape";
export const widthOfThePart = "Width of the part";
export const heightOfThePart = "Height of the part";
export const dragAFrameOn = "Drag a frame on the picture";
export const keepThesePixels = "Keep these pixels";
export const traceItAtFull = "Trace it at full size";
export const cancel = "Cancel";
