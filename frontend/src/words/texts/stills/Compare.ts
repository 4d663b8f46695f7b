/** Words of stills/Compare.tsx. */
export const howToCompare = "How to compare";
