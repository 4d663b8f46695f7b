/** Words of drawer/Glow.tsx. */
export const colourByTemperature = "Colour by temperature";
export const temperature = "Temperature";
export const clippedItHas = "Clipped: it has";
export const itWouldHave = "It would have";
export const lostHalfItsColour = (what: string | number, burns: string | number) =>
  `${what} lost half its colour to white from ${burns} cd/m² in this shot.`;
