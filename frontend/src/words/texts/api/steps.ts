/** Words of api/steps.ts. */
export const oneEdit = " one edit";
export const madeInAnotherTab = ", made in another tab";
export const madeInAnotherTab2 = " (made in another tab)";
export const tookBack = "Took back";
export const madeAgain = "Made again";
export const undo = "Undo";
export const redo = "Redo";
