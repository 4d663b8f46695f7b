/** Words of desk/HistoryList.tsx. */
export const nothingWasChangedYet = "Nothing was changed yet.";
export const makeItAgainUp = "Make it again, up to here";
export const goBackToAfter = "Go back to after this";
export const anEdit = "An edit";
export const otherTab = "other tab";
export const now = "now";
export const takeEverythingBack = "Take everything back";
export const asItWasImported = "As it was imported";
export const earlier = "earlier";
