import { expect, test } from "vitest";
import { dragged, moved, regionOf, sized } from "./cropFrame";

const WHOLE = { width: 800, height: 600 };

test("a frame spans two corners, whichever way it is dragged", () => {
  const frame = { x: 100, y: 50, width: 200, height: 150 };
  expect(dragged([100, 50], [300, 200], WHOLE)).toEqual(frame);
  expect(dragged([300, 200], [100, 50], WHOLE)).toEqual(frame);
  expect(dragged([700, 500], [2000, -3], WHOLE)).toEqual({ x: 700, y: 0, width: 100, height: 500 });
});

test("in a shape it is as large as the longer drag asks for, and as the picture has room", () => {
  expect(dragged([100, 100], [420, 110], WHOLE, 16 / 9)).toEqual({ x: 100, y: 100, width: 320, height: 180 });
  expect(dragged([100, 500], [420, 590], WHOLE, 1)).toEqual({ x: 100, y: 500, width: 100, height: 100 });
  expect(dragged([400, 300], [100, 200], WHOLE, 1)).toEqual({ x: 100, y: 0, width: 300, height: 300 });
});

test("it moves and grows inside the picture only", () => {
  const frame = { x: 100, y: 50, width: 200, height: 150 };
  expect(moved(frame, [-300, 1000], WHOLE)).toEqual({ x: 0, y: 450, width: 200, height: 150 });
  expect(sized(frame, { width: 600 }, WHOLE)).toEqual({ x: 0, y: 50, width: 600, height: 150 });
  expect(sized(frame, { height: 900 }, WHOLE)).toEqual({ x: 100, y: 0, width: 200, height: 600 });
  expect(regionOf(frame, WHOLE)).toEqual([0.125, 1 / 12, 0.375, 1 / 3]);
});
