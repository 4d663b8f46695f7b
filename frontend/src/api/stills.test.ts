import { expect, test } from "vitest";
import { duration } from "../schedules/shots/StillRow";
import type { StillLine } from "./client";
import { boundedSide, boundedWidth, detailOf, shownSmaller } from "./stills";

test("sides end where stills do, and a width leaves room for its height", () => {
  expect([10, 64.4, 1280, 99_999].map(boundedSide)).toEqual([64, 64, 1280, 16384]);
  expect(boundedWidth(16384, 4 / 3)).toBe(16384);
  expect(boundedWidth(16384, 3 / 4)).toBe(12288);
  expect(boundedWidth(1000, 3 / 4)).toBe(1000);
});

test("a still is shown smaller by a whole number from 7680 pixels a side on", () => {
  const of = (width: number, height: number) => shownSmaller({ width, height } as StillLine);
  expect([of(1280, 960), of(7680, 4320), of(7681, 100), of(100, 16384)]).toEqual([1, 1, 2, 3]);
});

test("a part is asked for by its pixels, and anew when the still has another picture", () => {
  const still = { id: "s", version: 4 } as StillLine;
  const part = { left: 1, top: 2, width: 3, height: 4 };
  expect(detailOf(still, part)).toBe("/api/stills/s/detail?v=4&left=1&top=2&width=3&height=4");
});

test("times are told in the unit that one thinks in", () => {
  expect([0.2, 42.3, 75, 7140, 10_938, 43_743].map(duration)).toEqual([
    "1 s",
    "42 s",
    "1:15 min",
    "119:00 min",
    "3:02 h",
    "12:09 h",
  ]);
});
