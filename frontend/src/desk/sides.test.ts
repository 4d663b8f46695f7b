import { beforeEach, expect, test, vi } from "vitest";

const kept = new Map<string, string>();
vi.stubGlobal("localStorage", {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem: (key: string, value: string) => kept.set(key, value),
});
const { fold, LIMITS, showPictureAlone, resetWidth, useSides, setWidth } = await import("./sides");

beforeEach(() => {
  resetWidth("left");
  resetWidth("right");
});

test("a side keeps within its limits, and folds away below half of the least", () => {
  const [least, most] = LIMITS.left;
  setWidth("left", 5000);
  expect(useSides.getState().left).toEqual({ width: most, folded: false });
  setWidth("left", least * 0.6);
  expect(useSides.getState().left).toEqual({ width: least, folded: false });
  setWidth("left", least * 0.4);
  expect(useSides.getState().left).toEqual({ width: least, folded: true });
  fold("left");
  expect(useSides.getState().left).toEqual({ width: least, folded: false });
  expect(JSON.parse(kept.get("usual-lamp-desk-sides")!).left.width).toBe(least);
});

test("the picture is alone when both are away, and both come back as wide as they were", () => {
  setWidth("right", 300);
  fold("left");
  showPictureAlone();
  expect([useSides.getState().left.folded, useSides.getState().right.folded]).toEqual([true, true]);
  showPictureAlone();
  expect(useSides.getState().right).toEqual({ width: 300, folded: false });
  expect(useSides.getState().left.folded).toBe(false);
});
