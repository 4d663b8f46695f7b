/** Words of stills/MatrixDialog.tsx. */
export const stillIs = "still is";
export const stillsAre = "stills are";
export const queued = (count: string | number, what: string | number) => `${count} ${what} queued.`;
export const looksXLightingsX = "Looks x lightings x shots";
export const shots = "Shots";
export const looks = "Looks";
export const lightings = "Lightings";
export const noneTickedEachShots = "none ticked: each shot's own";
export const quality = "Quality";
export const selectAtLeastOne = "Select at least one shot and one look.";
export const measuringHowLong = "Measuring how long that takes...";
export const howLongItTakes = "How long it takes could not be measured now.";
export const aboutOfTracingMeasured = (seconds: string | number) =>
  `About ${seconds} of tracing, measured on a small part of each shot.`;
export const eachInItsShots = (count: string | number, what: string | number, what2: string | number) =>
  `${count} ${what}, each in its shot's size. ${what2}`;
export const cancel = "Cancel";
export const take = (count: string | number, what: string | number) => `Take ${count} ${what}`;
export const samples = (name: string | number, value: string | number) => `${name}, ${value} samples`;
export const still = "still";
export const stills = "stills";
