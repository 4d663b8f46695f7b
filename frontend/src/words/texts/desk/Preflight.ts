/** Words of desk/Preflight.tsx. */
export const toCheck = (open: string | number) => `${open} to check`;
export const ready = "Ready";
export const checksBeforeAStill = "Checks before a still";
export const checking = "checking…";
