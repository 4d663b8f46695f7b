/** Words of drawer/model/Mending.tsx. */
export const mesh = "Mesh";
export const mendedOrOdd = (defects: string | number) => `${defects} mended or odd`;
export const showOpenEdgesAnd = "Show open edges and sides seen from within";
export const turnInsideOut = "Turn inside out";
export const crease = "Crease";
export const creaseAngle = "Crease angle";
export const smooth = "Smooth";
export const edgesSharperThanThe =
  "Edges sharper than the crease angle stay sharp; everything else is shaded smooth.";
