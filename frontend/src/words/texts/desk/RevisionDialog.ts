/** Words of desk/RevisionDialog.tsx. */
export const mightBeTheSame = "Might be the same part: join or split";
export const inThePreviousRevision = "In the previous revision, not in this one";
export const notInThePrevious = "Not in the previous revision";
export const theSamePartWith = "The same part with another shape";
export const theSamePartIn = "The same part in another place";
export const theSameInShape = "The same in shape and place";
export const newRevision = (fileName: string | number) => `New revision: ${fileName}`;
export const comparingTheParts = "Comparing the parts…";
export const whatBecameOfThe = "What became of the parts";
export const cannotBeCarriedOver = "Cannot be carried over";
export const sinceThePartIs = (left: string | number) =>
  `, since the part is gone: ${left}. It is kept, and there again if the part comes back.`;
export const appearancesSuppressionAndPlaces = (parts: string | number) =>
  `Appearances, suppression and places carry over to ${parts}. One undo brings the revision before back.`;
export const discard = "Discard";
export const replaceTheModel = "Replace the model";
export const decalsOnPartsWith = "Decals on parts with another shape";
export const before = "before";
export const waits = "waits";
export const now = "now";
export const on = (name: string | number, name2: string | number, when: string | number) =>
  `${name} on ${name2}, ${when}`;
export const keepsItsPlaceOnA = "keeps its place, on a face that changed";
export const movesWithItsFace = (shift: string | number) => `moves ${shift} with its face`;
export const keepsItsPlace = "keeps its place";
export const hasLostItsFace = "has lost its face and will wait in the list of decals";
export const on2 = (name: string | number, part: string | number, words: string | number) =>
  `${name} on ${part} ${words}`;
export const wasCalled = (name: string | number) => `was called ${name}; `;
export const sure = (confidence: string | number) => ` · ${confidence} sure`;
export const itIsAnotherPart = "It is another part";
export const split = "Split";
export const itIsTheSame = "It is the same part";
export const samePart = "Same part";
export const whatWasBefore = (name: string | number) => `What ${name} was before`;
export const wasNoneOfThe = "was none of the old";
export const was = (name: string | number) => `was ${name}`;
export const gone = "gone";
export const none = "none";
