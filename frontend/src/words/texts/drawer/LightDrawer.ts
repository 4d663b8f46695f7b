/** Words of drawer/LightDrawer.tsx. */
export const glowingParts = "Glowing parts";
export const allPartsThatWear =
  "All parts that wear a glowing appearance: displays, indicators, luminous lines. Level and switch are in the row; what each of them gives is a parameter of its appearance.";
