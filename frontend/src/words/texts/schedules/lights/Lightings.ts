/** Words of schedules/lights/Lightings.tsx. */
export const lightings = "Lightings";
export const lightingInUse = "Lighting in use";
export const nameOfTheLighting = "Name of the lighting";
export const rename = "Rename";
export const startAnotherLightingFrom = "Start another lighting from this one";
export const copy = "Copy";
export const moveUpInThe = "Move up in the list";
export const remove = "Remove";
export const compareWith = "Compare with";
export const onlyForTheShot = (name: string | number) => `Only for the shot “${name}”`;
