/** Words of state/rows.ts. */
export const noAppearanceYet = "No appearance yet";
export const cadColours = "CAD colours";
export const noMaterialInThe = "No material in the file";
export const noLayer = "No layer";
export const andMore = (shown: string | number, names: string | number) => `${shown} and ${names} more`;
export const part = "part";
export const parts = "parts";
