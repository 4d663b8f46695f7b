/** Words of desk/Guide.tsx. */
export const giveItAFirst = "Give it a first coat";
export const thePartsStillHave =
  "The parts still have their CAD colours. First coat proposes an appearance for each, with the reason; you apply what you like.";
export const lookAtTheLight = "Look at the light";
export const lightsListsAllThat =
  "Lights lists all that lights the product. Pick other surroundings there, or leave them: the table top suits most products.";
export const turnOnTheLamp = "Turn on the lamp";
export const itTracesTheLight =
  "It traces the light in this picture. It starts rough and gets clean while you watch.";
export const frameTheShot = "Frame the shot";
export const dragInThePicture =
  "Drag in the picture to turn the product, then save the view as a shot on the sheet Shots, or with V.";
export const takeAStill = "Take a still";
export const itIsTracedTo =
  "It is traced to the end at full size while you work on. Beside it stands what to check before.";
export const guidedStart = "Guided start";
export const closeTheGuide = "Close the guide";
export const closeItForGood = "Close it for good; ? brings it back";
export const ofWord = (at: string | number, value: string | number) => `${at} of ${value}`;
export const back = "Back";
export const next = "Next";
export const done = "Done";
