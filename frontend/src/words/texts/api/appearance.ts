/** Words of api/appearance.ts. */
export const theFileCouldNot = "The file could not be read.";
