/** Words of schedules/parts/alike.ts. */
export const samePart = "Same part";
export const sameShape = "Same shape";
export const sameAppearance = "Same appearance";
export const sameCadColour = "Same CAD colour";
export const sameMaterial = "Same material";
export const sameLayer = "Same layer";
export const sameSubAssembly = "Same sub-assembly";
