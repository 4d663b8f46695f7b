/** Words of state/giving.ts. */
export const theseFaces = "these faces";
export const theseParts = "these parts";
export const allSameParts = "all same parts";
export const allOfTheSame = "all of the same shape";
export const wholeModel = "whole model";
export const everythingWithThisAppearance = "everything with this appearance";
