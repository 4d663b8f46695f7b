import { Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Camera } from "../api/client";
import { axes, upright, type View, viewOf, wordsOf } from "../state/camera";
import { Lens } from "./lens";

const seenFrom = (position: readonly number[], target: number[]) =>
  viewOf({ position, target, focal_length: 50 } as unknown as Camera);
const FROM_ABOVE = seenFrom([60, -300, 180], [5, 0, 20]);

function projected(view: View, point: Vector3): Vector3 {
  return point.clone().project(new Lens().set(view, 4 / 3, 100));
}

describe("the lens of the shaded picture", () => {
  it("keeps uprights upright, and what was in the middle there", () => {
    const level = upright(FROM_ABOVE)!;
    const [foot, head] = [new Vector3(40, 10, 0), new Vector3(40, 10, 120)];
    expect(Math.abs(projected(FROM_ABOVE, foot).x - projected(FROM_ABOVE, head).x)).toBeGreaterThan(0.02);
    expect(projected(level, foot).x).toBeCloseTo(projected(level, head).x, 5);
    const middle = projected(level, FROM_ABOVE.target);
    expect(middle.x).toBeCloseTo(0, 4);
    expect(middle.y).toBeCloseTo(0, 3);
    expect(upright({ ...FROM_ABOVE, position: new Vector3(5, -1, 300) })).toBeUndefined();
  });
  it("turns the picture clockwise as the camera rolls", () => {
    const rolled = { ...FROM_ABOVE, optics: { ...FROM_ABOVE.optics!, roll: 90 } };
    const right = axes(FROM_ABOVE).right.multiplyScalar(20).add(FROM_ABOVE.target);
    const seen = projected(rolled, right);
    expect(seen.x).toBeCloseTo(0, 5);
    expect(seen.y).toBeLessThan(-0.1);
  });
  it("draws nothing that is nearer than the cut", () => {
    const cut = { ...FROM_ABOVE, optics: { ...FROM_ABOVE.optics!, near: 250 } };
    const { forward } = axes(cut);
    const at = (depth: number) => projected(cut, cut.position.clone().addScaledVector(forward, depth)).z;
    expect(at(249)).toBeLessThan(-1);
    expect(at(251)).toBeGreaterThan(-1);
  });
  it.each([
    [[0, -9, 1], "Front"],
    [[-7, -7, 1], "Front left"],
    [[7, 7, 9], "Back right, from above"],
    [[0, 0.1, 9], "From above"],
    [[9, 0, -5], "Right, from below"],
  ] as const)("names the view from %s", (position, words) => {
    expect(wordsOf(seenFrom(position, [0, 0, 0]))).toBe(words);
  });
});
