/** Words of ui/WipeLine.tsx. */
export const placeOfTheWipe = "Place of the wipe";
