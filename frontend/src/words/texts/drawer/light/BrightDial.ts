/** Words of drawer/light/BrightDial.tsx. */
export const noneTheLightIs = "none, the light is even";
export const brightestDirections = (bright: string | number) => `Brightest directions: ${bright}`;
export const fromHereOneLooks = "From here one looks";
export const theseSurroundingsAreEvenly =
  "These surroundings are evenly bright: rotating them changes little.";
export const frontRight = "front right";
export const backRight = "back right";
export const backLeft = "back left";
export const frontLeft = "front left";
export const up = (side: string | number, elevation: string | number) => `${side}, ${elevation}° up`;
export const seenFromAboveThe =
  "Seen from above, the front at the bottom: where the surroundings are brightest, and in blue-green from where one looks. Drag to rotate.";
