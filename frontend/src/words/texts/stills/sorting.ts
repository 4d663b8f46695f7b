/** Words of stills/sorting.ts. */
export const outOfDate = "out of date";
export const notNoted = "not noted";
export const removed = (name: string | number) => `${name}, removed`;
