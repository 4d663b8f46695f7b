/** Words of schedules/parts/AlikeMenu.tsx. */
export const selectSimilar = "Select similar…";
export const thisSizeOrSmaller = "This size or smaller";
