/** Words of drawer/SampleShelf.tsx. */
export const inUse = "in use";
export const theShelfCouldNot = "The shelf could not be fetched. Reload the page.";
export const fetchingTheShelf = "Fetching the shelf…";
export const isOffTheShelf = (name: string | number) =>
  `${name} is off the shelf. Reviews that wear it keep it.`;
export const keepItAgain = "Keep it again";
export const samples = "Samples";
export const applyTo = "Apply to";
export const whatThisFilterFinds = "what this filter finds, by a rule";
export const findASample = "Find a sample";
export const steelClearGloss = "steel, clear, gloss…";
export const families = "Families";
export const smallPlates = "Small plates";
export const largePlates = "Large plates";
export const nothingIsKeptYet =
  "Nothing is kept yet. Keep an appearance from its parameters above, for all reviews.";
export const noMatchingSampleTry = "No matching sample. Try a family instead.";
export const hoverOverASample = (parts: string | number) => `Hover over a sample to preview it on ${parts}.`;
export const hasIts = "has its";
export const haveTheir = "have their";
export const ownShiftClickChanges = (
  keeping: string | number,
  what: string | number,
  what2: string | number,
) => `; ${keeping} ${what} own (Shift-click changes ${what2} too)`;
export const faceKeepsIts = "face keeps its";
export const facesKeepTheir = "faces keep their";
export const own = (faces: string | number, what: string | number) => `; ${faces} ${what} own`;
export const itHas = "it has";
export const allHave = (meant: string | number) => `all ${meant} have`;
export const changesNothingAlready = (what: string | number, name: string | number) =>
  `Changes nothing: ${what} ${name} already`;
export const gives = "Gives";
export const ofWord = (changing: string | number, parts: string | number) => `${changing} of ${parts}`;
export const own2 = "own";
export const it = "it";
export const them = "them";
export const changes = "changes";
export const change = "change";
export const selectPartsFirstA = "Select parts first: a click on a sample applies it to them.";
export const recent = "recent";
export const kept = "kept";
export const all = "all";
