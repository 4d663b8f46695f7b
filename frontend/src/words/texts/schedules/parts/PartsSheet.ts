/** Words of schedules/parts/PartsSheet.tsx. */
export const bySamePart = "by same part";
export const bySameShape = "by same shape";
export const byStructure = "by structure";
export const byAppearance = "by appearance";
export const byMaterial = "by material";
export const byLayer = "by layer";
export const groupParts = "Group parts";
export const parts = "Parts";
export const part = "Part";
export const qty = "Qty";
export const appearanceWhy = "Appearance · why";
export const noPartPasses = (filter: string | number) => `No part passes “${filter}”.`;
export const showAllParts = "Show all parts";
