/** Words of schedules/appearances/FirstCoatDialog.tsx. */
export const aGuess = "a guess";
export const firstCoatAppliedTo = (parts: string | number) =>
  `First coat applied to ${parts}. Undo takes all of it back.`;
export const firstCoat = "First coat";
export const readingNamesAndMaterials = "Reading names and materials…";
export const everyPartWasGiven =
  "Every part was given an appearance already, or nothing is known of those that were not.";
export const all = "All";
export const appearance = "Appearance";
export const parts = "Parts";
export const howSure = "How sure";
export const why = "Why";
export const toDecide = (parts: string | number) => `To decide: ${parts}.`;
export const andMore = (open: string | number) => ` and ${open} more`;
export const selectThem = "Select them";
export const exposeForEv = (exposure: string | number) => `Expose for ${exposure} EV`;
export const theProductIsDark = "the product is dark";
export const theProductIsLight = "the product is light";
export const evNow = (what: string | number, now: string | number) => `${what}: ${now} EV now`;
export const cancel = "Cancel";
export const applyTo = (parts: string | number) => `Apply to ${parts}`;
export const sure = "sure";
export const likely = "likely";
