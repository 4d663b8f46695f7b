/** Words of desk/PreflightList.tsx. */
export const theNextStillsAre = (value: string | number) =>
  `The next stills are traced until their noise is ${value}.`;
export const thisShot = "this shot";
export const beforeAStillOf = (name: string | number) => `Before a still of “${name}”`;
export const nothingToMendWas = "Nothing to mend was found in this shot.";
export const silencedInThisReview = (quiet: string | number) => `${quiet} silenced in this review`;
export const showThemAgain = "Show them again";
export const selectThemWithThe = "Select them, with the rest drawn faint";
export const show = "Show";
export const doNotTellThis = "Do not tell this in this review any more";
export const silence = "Silence";
