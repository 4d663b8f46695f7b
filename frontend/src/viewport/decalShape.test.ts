import { Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Decal } from "../api/client";
import { laidOut, pointOn, shifted } from "./decalShape";

const flat = {
  center: [5, -20, 3],
  right: [1, 0, 0],
  up: [0, 0, 1],
  turn: 30,
  wrap: null,
} as unknown as Decal;
const round = (radius: number, along: "up" | "right") =>
  ({ ...flat, center: [0, -20, 0], turn: 0, wrap: { radius, along } }) as Decal;

describe("where a decal lies", () => {
  it.each([
    ["flat", flat],
    ["round a cylinder", round(20, "up")],
    ["in a bore", round(-20, "up")],
    ["round an axis along its width", round(20, "right")],
  ])("is told both ways alike: %s", (_, decal) => {
    const [x, y, away] = laidOut(decal, pointOn(decal, 7, -4));
    expect(x).toBeCloseTo(7, 9);
    expect(y).toBeCloseTo(-4, 9);
    expect(away).toBeCloseTo(0, 9);
  });

  it("goes round by arc length: a quarter turn of 20 mm is 31.4 mm", () => {
    const point = pointOn(round(20, "up"), 10 * Math.PI, 2);
    expect(point.distanceTo(new Vector3(20, 0, 2))).toBeCloseTo(0, 9);
  });

  it.each([20, -20])("stays on its cylinder when it is shifted, radius %d", (radius) => {
    const moved = { ...round(radius, "up"), ...shifted(round(radius, "up"), 9, 1) } as Decal;
    const axis = new Vector3(0, -20 - radius * -1, 0);
    const middle = new Vector3(...moved.center);
    expect(middle.clone().setZ(0).distanceTo(axis)).toBeCloseTo(20, 9);
    const back = shifted(moved, -9, -1);
    expect(new Vector3(...back.center).distanceTo(new Vector3(0, -20, 0))).toBeCloseTo(0, 9);
    expect(new Vector3(...back.right).distanceTo(new Vector3(1, 0, 0))).toBeCloseTo(0, 9);
  });
});
