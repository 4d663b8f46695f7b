/** Words of desk/TopLine.tsx. */
export const allReviews = "All reviews";
export const usualLamp = "Usual Lamp";
export const importedFromInChord = (
  fileName: string | number,
  sourceUnits: string | number,
  chord: string | number,
) => `Imported from ${fileName}, in ${sourceUnits}, chord ${chord}`;
export const theLastChangeWas = "the last change was not saved";
export const allChangesSaved = "all changes saved";
export const undo = "Undo";
export const redo = "Redo";
export const keyboardShortcuts = "Keyboard shortcuts";
export const importWord = (warnings: string | number, what: string | number) => `${warnings} import ${what}`;
export const renameThisReview = "Rename this review";
export const nameOfTheReview = "Name of the review";
export const saving = "saving…";
export const note = "note";
export const notes = "notes";
