/** Words of drawer/Plate.tsx. */
export const on = (used: string | number) => `, on ${used}`;
