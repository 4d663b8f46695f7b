/** Words of stills/StillCard.tsx. */
export const waitingForItsTurn = "waiting for its turn";
export const noPictureYet = "no picture yet";
export const removeTheStar = "Remove the star";
export const star = "Star";
export const starred = "starred";
export const noise = (grain: string | number) => `noise ${grain}`;
