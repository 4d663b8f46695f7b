/** Words of schedules/appearances/InUse.tsx. */
export const appearancesInUse = "Appearances in use";
export const inUse = "In use";
export const selectPartsWith = (appearance: string | number) => `Select parts with ${appearance}`;
export const beneath = (beneath: string | number) => `${beneath} beneath`;
export const replaceEverywhere = (name: string | number) => `Replace ${name} everywhere`;
export const replace = "Replace";
export const fromCadOrNo = (rest: string | number, what: string | number) =>
  `${rest} ${what} from CAD, or no appearance yet`;
export const keptInThisReview = (unused: string | number) =>
  `${unused} kept in this review, worn by nothing in any look`;
export const removeThem = "Remove them";
export const replaceEverywhereWith = "Replace everywhere with";
export const replaceEverywhereWith2 = "Replace everywhere with…";
export const colour = "colour";
export const colours = "colours";
