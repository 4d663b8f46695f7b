/** Words of ui/HintLayer.tsx. */
export const little = "little";
export const much = "much";
