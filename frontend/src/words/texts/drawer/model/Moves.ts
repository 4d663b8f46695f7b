/** Words of drawer/model/Moves.tsx. */
export const movedParts = "Moved parts";
export const aPartThatIs = "A part that is gone";
export const putItBack = "Put it back";
export const putAllBack = "Put all back";
