/** Words of drawer/ClearFields.tsx. */
export const makeItsBackgroundClear = "Make its background clear";
export const tolerance = "Tolerance";
export const alsoWhatIsEnclosed = "Also what is enclosed";
