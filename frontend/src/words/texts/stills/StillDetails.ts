/** Words of stills/StillDetails.tsx. */
export const changedSince = "Changed since";
export const notKnownForThis = "Not known for this still.";
export const takeAgain = "Take again";
export const finer = "Finer";
export const traceOnFromWhere = "Trace on, from where it ended";
export const toSamples = (quality: string | number, samples: string | number) =>
  `to ${quality}, ${samples} samples`;
export const thisIsTheScene = "This is the scene as it was for the still, as a review of its own.";
export const openAsAScene = "Open as a scene";
export const aNewReviewAs =
  ": a new review, as it was for this still. The PNG holds the scene, too: drop it on the list of reviews.";
export const note = "Note";
export const whatItIsFor = "What it is for, what to look at";
export const file = "File";
export const format = "Format";
export const quality = "Quality";
export const qualityOfTheFile = "Quality of the file";
export const download = "Download";
export const layersBesideThe = "Layers, beside picture, light and backdrop";
export const lightWithItsNoise = "Light with its noise";
export const eachLampOnItsOwn = "Light of each lamp";
export const lightByKind = "Light by kind, shadow";
export const albedoAndNormal = "Albedo and normal, averaged";
export const depthPositionNormals = "Depth, position, normals, mattes";
export const halfNumbers = "Half floats: a smaller file";
