/** Words of drawer/FinishFields.tsx. */
export const foilMetal = "foil, metal";
export const deadFront = "dead front";
export const etchedDull = "etched, dull";
export const finish = "Finish";
export const finishOfTheDecal = "Finish of the decal";
export const itsOwnColoursGlow = "Its own colours glow: what is black in it stays dark.";
export const showsOnlyWhileIt = "Shows only while it is lit; unlit, there is nothing to see of it.";
export const lit = "Lit";
export const luminance = "Luminance";
export const relief = "Relief";
export const filledWithItsColours = "Filled with its colours";
export const roughnessOfItsOwn = "Roughness of its own";
export const roughness = "Roughness";
