import { useCallback, useState } from "react";
import { usePanelRef } from "react-resizable-panels";

const KEY = "usual-lamp-desk-sides";
type Side = "left" | "right";

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

function stored(): Record<Side, Kept> {
  try {
    return { ...USUAL, ...JSON.parse(localStorage.getItem(KEY) ?? "{}") };
  } catch {
    return USUAL;
  }
}

/** The sides of the desk: how they were left, and what folds them away. */
export function useSides() {
  const left = usePanelRef();
  const right = usePanelRef();
  const [first] = useState(stored);
  const keep = useCallback((side: Side, pixels: number) => {
    const known = stored();
    const now = { width: pixels > 0 ? Math.round(pixels) : known[side].width, folded: pixels === 0 };
    localStorage.setItem(KEY, JSON.stringify({ ...known, [side]: now }));
  }, []);
  const fold = useCallback(
    (side: Side, away: boolean) => {
      const panel = { left, right }[side].current;
      if (away) panel?.collapse();
      else panel?.resize(`${stored()[side].width}px`);
    },
    [left, right],
  );
  const isOpen = useCallback(
    (side: Side) => !({ left, right }[side].current?.isCollapsed() ?? true),
    [left, right],
  );
  const foldLeft = useCallback(() => fold("left", isOpen("left")), [fold, isOpen]);
  const foldRight = useCallback(() => fold("right", isOpen("right")), [fold, isOpen]);
  /** Both away, or both back. */
  const alone = useCallback(() => {
    const away = isOpen("left") || isOpen("right");
    fold("left", away);
    fold("right", away);
  }, [fold, isOpen]);
  const size = (side: Side) => (first[side].folded ? "0px" : `${first[side].width}px`);
  return { left, right, size, keep, foldLeft, foldRight, alone };
}
