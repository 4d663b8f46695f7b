/** Words of ui/SeveralFiles.tsx. */
export const theseFilesAre = (count: string | number) => `These ${count} files are…`;
export const oneModelItsFiles = "one model: its files name each other";
