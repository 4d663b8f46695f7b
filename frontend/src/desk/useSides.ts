import { useCallback, useState } from "react";
import { type PanelImperativeHandle, usePanelRef } from "react-resizable-panels";

const KEY = "usual-lamp-sides";
/** Pixels: at 1280 across the picture has more than half. */
const USUAL = { left: 344, right: 280 };

type Sides = typeof USUAL;

function stored(): Sides {
  try {
    const found: Partial<Sides> = JSON.parse(localStorage.getItem(KEY) ?? "{}");
    return { left: found.left ?? USUAL.left, right: found.right ?? USUAL.right };
  } catch {
    return USUAL;
  }
}

const toggle = (panel: PanelImperativeHandle | null) => {
  if (panel?.isCollapsed()) panel.expand();
  else panel?.collapse();
};

/** The sides of the desk: how wide they were left, and keys that fold them away. */
export function useSides() {
  const left = usePanelRef();
  const right = usePanelRef();
  const [first] = useState(stored);
  const keep = useCallback((side: keyof Sides, pixels: number) => {
    localStorage.setItem(KEY, JSON.stringify({ ...stored(), [side]: Math.round(pixels) }));
  }, []);
  const foldLeft = useCallback(() => toggle(left.current), [left]);
  const foldRight = useCallback(() => toggle(right.current), [right]);
  /** Both away, or both back. */
  const alone = useCallback(() => {
    const panels = [left.current, right.current];
    const open = panels.some((panel) => panel && !panel.isCollapsed());
    for (const panel of panels) open ? panel?.collapse() : panel?.expand();
  }, [left, right]);
  return { left, right, first, keep, foldLeft, foldRight, alone };
}
