/** Words of drawer/model/Source.tsx. */
export const updateModel = (name: string | number) => `Update model ${name}`;
export const updateModel2 = "Update model";
export const aNewerFileIs = "a newer file is there";
export const newerFile = "Newer file";
export const replaceWithNewerFile = "Replace with newer file…";
export const aNewerFileIsThere = "A newer file is there.";
export const watchedTheReviewHas = "Watched: the review has its latest.";
export const lookAtIt = "Look at it";
export const stopFollowing = "Stop following";
export const fileOnTheServer = "File on the server to follow";
export const watch = "Watch";
export const pathOnTheServer = "/path/on/the/server/pump.step";
