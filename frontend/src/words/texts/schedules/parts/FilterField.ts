/** Words of schedules/parts/FilterField.tsx. */
export const filterParts = "Filter parts";
export const wordsOfTheName =
  "Words of the name, or field:value such as material:steel or size<5. A minus turns a term round.";
export const screwSize5 = "screw, size<5…";
export const clearTheFilter = "Clear the filter";
export const buildAFilter = "Build a filter";
export const addToTheFilter = "Add to the filter";
export const field = "Field";
export const number = "Number";
export const value = "Value";
export const onlyThese = "Only these";
export const notThese = "Not these";
export const keptFilters = "Kept filters";
export const dropTheFilter = (title: string | number) => `Drop the filter ${title}`;
export const nameForThisFilter = "Name for this filter";
export const nameForThisFilter2 = "name for this filter";
export const keep = "Keep";
export const filterThePartsThen = "Filter the parts, then keep the filter here under a name.";
