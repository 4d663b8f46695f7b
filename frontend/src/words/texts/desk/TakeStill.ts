/** Words of desk/TakeStill.tsx. */
export const takeAStillOf = (
  name: string | number,
  width: string | number,
  height: string | number,
  untilWords: string | number,
  what: string | number,
) => `Take a still of the shot “${name}”, ${width} x ${height}, ${untilWords}${what}`;
export const takeStillOfThe = "Take still of the shot";
export const takeStill = "Take still";
export const sizeAndQualityOf = "Size and quality of the still";
export const theDeskShowsAnotherView = ". The desk shows another view: it will not be in the still.";
