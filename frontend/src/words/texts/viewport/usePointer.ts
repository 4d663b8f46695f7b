/** Words of viewport/usePointer.ts. */
export const turned = (turn: string | number) => `turned ${turn}°`;
