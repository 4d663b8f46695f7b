/** Words of drawer/KeepSample.tsx. */
export const keepAsASample = "Keep as a sample for all reviews";
export const isOnTheShelf = (name: string | number) => `${name} is on the shelf, under “kept”.`;
export const nameOfTheSample = "Name of the sample";
export const keep = "Keep";
