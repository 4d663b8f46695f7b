/** Words of drawer/StillFacts.tsx. */
export const size = "Size";
export const quality = "Quality";
export const noiseAtMost = (grainAsked: string | number) => `noise at most ${grainAsked}`;
export const samples = "Samples";
export const ofWord = (samplesDone: string | number, samples: string | number) =>
  `${samplesDone} of ${samples}`;
export const noise = "Noise";
export const notMeasuredYet = "not measured yet";
export const madeFrom = "Made from";
export const lightOfAnEarlier = "light of an earlier still";
export const tracedIn = "Traced in";
export const notBegun = "not begun";
export const partOfTheFrame = "Part of the frame";
export const engine = "Engine";
export const taken = "Taken";
export const still = "Still";
export const downloadPng = "Download PNG";
export const pinBesideTheDesk = "Pin beside the desk";
export const backToTheDesk = "Back to the desk";
export const lightsOfThisStill = "Lights of this still";
export const eachLightWasKept = "Each light was kept apart, so a version with other levels takes seconds.";
export const makeAVersion = "Make a version";
export const asTaken = "As taken";
export const layers = "Layers";
export const byKindOfLight = "by kind of light, in the OpenEXR";
