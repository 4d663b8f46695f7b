/** Words of drawer/Layers.tsx. */
export const givenToThisPart = "given to this part";
export const givenToAllSame = "given to all same parts";
export const byARule = "by a rule";
export const theSubAssembly = "the sub-assembly";
export const on = (name: string | number) => `on ${name}`;
export const onTheWholeModel = "on the whole model";
export const givenToThisFace = "given to this face";
export const face = (value: string | number) => `Face ${value}`;
export const whyItLooksLike = "Why it looks like this";
export const nothing = "Nothing";
export const rules = "Rules";
export const lift = "Lift";
