/** Words of desk/takingStills.ts. */
export const theViewOnThe = "the view on the desk, ";
export const theShotNotThe = (name: string | number) => `the shot “${name}”, not the view on the desk, `;
export const tracingX = (what: string | number, width: string | number, height: string | number) =>
  `Tracing ${what}${width} x ${height}`;
export const theDeskStaysFree = (what: string | number, untilWords: string | number) =>
  `${what}, ${untilWords}. The desk stays free.`;
export const untilTheNoiseIs = (grain: string | number) => `until the noise is ${grain}`;
export const forMin = (minutes: string | number) => `for ${minutes} min`;
