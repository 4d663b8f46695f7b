/** Words of drawer/model/PlacementFields.tsx. */
export const shift = "Shift";
export const shiftAlong = (axis: string | number) => `Shift along ${axis}`;
export const turn = "Turn";
export const turnAboutDegrees = (axis: string | number) => `Turn about ${axis}, degrees`;
