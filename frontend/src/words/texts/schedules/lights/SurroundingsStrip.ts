/** Words of schedules/lights/SurroundingsStrip.tsx. */
export const surroundings = "Surroundings";
export const surroundingsOnThisProduct = "Surroundings, on this product";
export const panoramaFile = "Panorama file";
export const importHdr = "Import HDR…";
