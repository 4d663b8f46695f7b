import { create } from "zustand";

const KEY = "usual-lamp-desk-sides";
export type Side = "left" | "right";

interface Kept {
  /** Pixels, of a side that is open, or was before it was folded away. */
  width: number;
  folded: boolean;
}

/** At 1280 across the picture has more than half. */
const USUAL: Record<Side, Kept> = {
  left: { width: 344, folded: false },
  right: { width: 280, folded: false },
};
/** Pixels that a side may be wide, from and to. */
export const LIMITS: Record<Side, readonly [number, number]> = { left: [270, 640], right: [250, 480] };

function stored(): Record<Side, Kept> {
  try {
    return { ...USUAL, ...JSON.parse(localStorage.getItem(KEY) ?? "{}") };
  } catch {
    return USUAL;
  }
}

/** The sides of the desk, as they were left. */
export const useSides = create(stored);
useSides.subscribe((sides) => localStorage.setItem(KEY, JSON.stringify(sides)));

function change(side: Side, part: Partial<Kept>) {
  useSides.setState((sides) => ({ [side]: { ...sides[side], ...part } }));
}

/** Makes a side so wide, within its limits; at less than half of the least it folds away. */
export function setWidth(side: Side, pixels: number) {
  const [least, most] = LIMITS[side];
  if (pixels < least / 2) change(side, { folded: true });
  else change(side, { folded: false, width: Math.round(Math.min(most, Math.max(least, pixels))) });
}

/** Folds a side away, or back. */
export function fold(side: Side) {
  change(side, { folded: !useSides.getState()[side].folded });
}

/** As wide as it is at first. */
export function resetWidth(side: Side) {
  change(side, USUAL[side]);
}

/** Both away, or both back. */
export function showPictureAlone() {
  const { left, right } = useSides.getState();
  const folded = !left.folded || !right.folded;
  change("left", { folded });
  change("right", { folded });
}
