/** Words of drawer/light/Balance.tsx. */
export const toTheRest = (name: string | number) => `${name} to the rest`;
export const allLight = "All light";
export const backdropToProduct = "Backdrop to product";
export const solvesTheLevelsFrom =
  "Solves the levels from what each light gives to this picture; the others keep their proportions";
export const balanceForMe = "Balance for me";
