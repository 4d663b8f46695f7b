/** Words of schedules/lights/AddLights.tsx. */
export const panel = "Panel";
export const roundPanel = "Round panel";
export const tube = "Tube";
export const spot = "Spot";
export const point = "Point";
export const sun = "Sun";
export const fieldOfLights = "Field of lights";
export const card = "Card";
export const keyFillAndRim = "Key, fill and rim";
export const twoStripsForShiny = "Two strips, for shiny parts";
export const softLightFromAbove = "Soft light from above";
export const edgeLightOnDark = "Edge light on dark";
export const photometricFile = "Photometric file";
export const photometricFile2 = "Photometric file…";
export const starterSet = "Starter set";
export const starterSet2 = "Starter set…";
