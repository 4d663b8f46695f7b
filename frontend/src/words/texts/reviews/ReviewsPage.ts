/** Words of reviews/ReviewsPage.tsx. */
export const thePictureIsBeing = "the picture is being traced…";
export const reviewsUsualLamp = "Reviews · Usual Lamp";
export const usualLamp = "Usual Lamp";
export const reviews = "Reviews";
export const importACadOr = "Import a CAD or mesh file";
export const newReviewFromA = "New review from a file";
export const cadFile = "CAD file";
export const noReviewYet = "No review yet";
export const dropACadFile =
  "Drop a CAD file anywhere on this page, or select one: STEP, IGES, BREP, or a mesh as glTF, 3MF, OBJ, STL, PLY, OFF or Collada. Parts hidden in CAD are left out from the start.";
export const modelsInOneReview = "models in one review";
export const dropTheFileTo = "Drop the file to import it";
export const sendingTheFile = (sentWords: string | number) => `sending the file, ${sentWords}`;
export const putAway = "Put away";
export const isReadyToImport = "is ready to import.";
export const lookAtWhatWas = "Look at what was found";
export const discard = "Discard";
export const stop = "Stop";
export const removed = (name: string | number) => `“${name}” removed.`;
export const undo = "Undo";
export const open = (name: string | number, what: string | number) => `Open ${name}${what}`;
export const nameOfTheReview = "Name of the review";
export const rename = "Rename";
export const copy = "Copy";
export const remove = "Remove";
export const still = "still";
export const stills = "stills";
