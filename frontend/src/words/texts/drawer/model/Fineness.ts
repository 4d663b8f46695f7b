/** Words of drawer/model/Fineness.tsx. */
export const quickFacetsMayShow = "Quick; facets may show";
export const facetsHardlyShow = "Facets hardly show";
export const forLargePictures = "For large pictures";
export const tessellation = "Tessellation";
export const triangles = (triangles: string | number) => `${triangles} triangles`;
export const theseCameAsTriangles =
  "These came as triangles, without exact surfaces: they cannot be made finer here.";
export const askedChordAngleMeasured = (
  what: string | number,
  what2: string | number,
  what3: string | number,
) => `Asked: chord ${what}, angle ${what2}. Measured: at most ${what3} off the exact surface.`;
export const fitToTheShot = "Fit to the shot";
export const chord = "Chord";
export const angle = "Angle";
export const use = "Use";
export const ofThemCameAs = (used: string | number) =>
  `${used} of them came as triangles and stay as they are.`;
export const several = "several";
export const asFineAsThis =
  "As fine as this shot can show at its size: no outline more than half a pixel off, no triangle beyond";
