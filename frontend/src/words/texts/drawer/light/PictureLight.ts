/** Words of drawer/light/PictureLight.tsx. */
export const switchTheLampOn =
  "Switch the lamp on to see how bright the picture is, and which share of it each light gives.";
export const thePicturesLight = "The picture's light";
export const clippedBlack = (clipped: string | number, drowned: string | number) =>
  `${clipped} clipped, ${drowned} black`;
export const ofTheProductsOutline = (lost: string | number, where: string | number) =>
  `${lost} % of the product's outline is hardly seen against the backdrop, most of it at the ${where}. Make the backdrop there lighter or darker, or add a rim light.`;
export const surroundings = "Surroundings";
export const glowingParts = "Glowing parts";
export const ofTheLight = (name: string | number, what: string | number, first: string | number) =>
  `${name} ${what} ${first} % of the light`;
export const timesAsMuchAs = (most: string | number, first: string | number, name: string | number) =>
  `${most}, ${first} times as much as ${name}.`;
export const give = "give";
export const gives = "gives";
