/** Words of drawer/PartsDrawer.tsx. */
export const nothingSelected = "Nothing selected";
export const selectPartsInThe =
  "Select parts in the schedule or in the picture to apply a sample to them. Whole assembly:";
export const on = (faces: string | number, what: string | number) => `${faces} ${what} on `;
export const nothingIsSelectedA =
  "Nothing is selected: a sample goes to all that the filter finds; with Alt held down by a rule, which holds for later revisions, too.";
export const ofThemDifferent = (most: string | number, size: string | number) =>
  `${most} of them, ${size} different`;
export const samples = "Samples";
export const parameters = "Parameters";
export const decals = "Decals";
export const place = "Place";
export const cadColour = "CAD colour";
export const noAppearanceYet = "No appearance yet";
export const givenToTheFace = "given to the face";
export const givenToThePart = "given to the part";
export const givenToAllSame = "given to all same parts";
export const byARule = "by a rule";
export const onItsSubAssembly = "on its sub-assembly";
export const onTheWholeModel = "on the whole model";
export const ownFromCadColour = "Own, from CAD colour";
export const own = (name: string | number) => `${name}, own`;
export const thisFace = "this face";
export const theseFaces = (count: string | number) => `these ${count} faces`;
export const thisPart = "this part";
export const theseParts = (count: string | number) => `these ${count} parts`;
export const aChangeHereChanges = "A change here changes";
export const makeASeparateCopy = (these: string | number) => `Make a separate copy for ${these}`;
export const ignoreCadColourOn = (what: string | number) => `Ignore CAD colour on ${what}`;
export const useCadColourAgain = "Use CAD colour again";
export const removeOverrideOn = (these: string | number) => `Remove override on ${these}`;
export const face = "face";
export const faces = "faces";
export const found = "found";
export const selected = "selected";
