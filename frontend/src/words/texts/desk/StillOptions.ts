/** Words of desk/StillOptions.tsx. */
export const toJudgeLightAnd = "to judge light and framing";
export const forAReview = "for a review";
export const forPrint = "for print";
export const takeStill = "Take still";
export const quality = "Quality";
export const samples = (value: string | number, value2: string | number) => `${value} samples, ${value2}`;
export const untilItIsAt = "until it is at most";
export const noiseStopAt = "Noise, stop at";
export const tracedFor = "traced for";
export const timeStopAfter = "Time, stop after";
export const size = "Size";
export const widthOfTheStill = "Width of the still";
export const xPx = (height: string | number) => `x ${height} px`;
export const sameAspectRatio = "same aspect ratio";
export const notifyMeWhenStills = "Notify me when stills are done";
export const theDeskShowsAnother = "The desk shows another view than the shot.";
export const updateShot = "Update shot";
export const noise2 = "Noise";
export const ofTheShot = " of the shot";
export const takeStillOfThis = (asked: string | number, height: string | number) =>
  `Take still of this view, ${asked} x ${height}`;
export const time = "Time";
export const keepLayersByKind = "Keep layers by kind of light";
export const forCompositingThe =
  "For compositing: the OpenEXR then holds emission, diffuse, specular, direct, indirect and transmitted light, and the shadow, each on its own.";
export const measuringHowLong = "Measuring how long it takes...";
export const noiseAbout = (grain: string | number) => `, noise about ${grain} before it is removed`;
export const aboutOfTracing = (seconds: string | number, samples: string | number, left: string | number) =>
  `About ${seconds} of tracing, ${samples} samples${left}. Measured on a small part of the shot.`;
