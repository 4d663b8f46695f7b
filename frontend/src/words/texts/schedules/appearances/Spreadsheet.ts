/** Words of schedules/appearances/Spreadsheet.tsx. */
export const noNewAppearance = "No new appearance";
export const is = (names: string | number) => `${names} is`;
export const appearancesAre = (count: string | number) => `${count} appearances are`;
export const onTheShelfNow = (what: string | number) => `${what} on the shelf now.`;
export const exchange = "Exchange";
export const theScheduleAsCsv = "The schedule as CSV, for colleagues to fill in";
export const csvSchedule = "CSV schedule";
export const thisReviewsAppearancesAs = "This review's appearances as MaterialX";
export const materialxDocument = "MaterialX document";
export const whatTheFileWould = "What the file would change";
export const theFileChangesNothing = "The file changes nothing.";
export const theFileChanges = (parts: string | number) => `The file changes ${parts}:`;
export const cancel = "Cancel";
export const apply = "Apply";
export const save = (name: string | number) => `Save ${name}`;
export const read = (name: string | number) => `Read ${name}`;
export const nothing = "nothing";
