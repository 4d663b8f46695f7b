/** Words of ui/Explained.tsx. */
export const little = "little";
export const much = "much";
