/** Words of schedules/parts/ChosenBar.tsx. */
export const showAll = "Show all";
export const bringBack = "Bring back";
export const selected = (parts: string | number) => `${parts} selected`;
export const showWhatIsSelected = "Show what is selected";
export const hideWhatIsSelected = "Hide what is selected";
export const show = "Show";
export const hide = "Hide";
export const hideEverythingElse = "Hide everything else";
export const onlyThese = "Only these";
export const bringBackIntoThe = "Bring back into the model";
export const leaveOutOfEverything = "Leave out of everything that is computed";
export const suppress = "Suppress";
export const clearSelection = "Clear selection";
export const hidden = (parts: string | number) => `${parts} hidden`;
export const hiddenInCadSuppressed = (parts: string | number) => `${parts} hidden in CAD, suppressed`;
export const showEveryHiddenPart = "Show every hidden part";
