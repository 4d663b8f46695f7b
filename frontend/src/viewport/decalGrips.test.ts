import { Matrix4, PerspectiveCamera, Ray, Vector2, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Decal } from "../api/client";
import { gripAt, gripPoint, pulled, slid, spotOn, turnedTo } from "./decalGrips";
import { pointOn } from "./decalShape";

const flat = {
  center: [5, 0, 3],
  right: [1, 0, 0],
  up: [0, 0, 1],
  width: 20,
  height: 10,
  turn: 30,
  wrap: null,
} as unknown as Decal;
const round = (radius: number, taper = 0) =>
  ({ ...flat, center: [0, -20, 0], turn: 0, wrap: { radius, along: "up", taper } }) as Decal;

describe("grips of a decal", () => {
  it.each([
    ["flat", flat],
    ["round a cylinder", round(20)],
    ["in a bore", round(-20)],
    ["round a cone", round(20, 20)],
    ["in a funnel", round(-20, 20)],
  ])("are met where a ray meets the decal: %s", (_, decal) => {
    const at = pointOn(decal, 6, -3);
    // From before it; in the bore round y = -40, from within.
    const eye = new Vector3(3, decal.wrap?.radius === -20 ? -50 : -200, 8);
    const ray = new Ray(eye, at.clone().sub(eye).normalize());
    const [x, y] = spotOn(decal, ray)!;
    expect(x).toBeCloseTo(6, 6);
    expect(y).toBeCloseTo(-3, 6);
  });

  it.each([
    ["flat", flat],
    ["round a cylinder", round(20)],
  ])("size it about the corner across, in proportion: %s", (_, decal) => {
    const across = gripPoint(decal, { kind: "corner", x: -1, y: -1 });
    const next = pulled(decal, { x: 1, y: 1 }, [20, 10]);
    expect([next.width, next.height]).toEqual([30, 15]);
    const stays = gripPoint(next, { kind: "corner", x: -1, y: -1 });
    expect(stays.distanceTo(across)).toBeCloseTo(0, 9);
    const least = pulled(decal, { x: 1, y: 1 }, [-90, -90]);
    expect(least.height).toBeCloseTo(0.1, 9);
  });

  it("turn it to where they are pulled, by 15° with Shift", () => {
    expect(turnedTo(flat, [5, 5], false).turn).toBe(-15);
    expect(turnedTo(flat, [4, 5], true).turn).toBe(-15);
    expect(turnedTo({ ...flat, turn: 170 }, [-5, 0], false).turn).toBe(-100);
  });

  it("are found under the pointer", () => {
    const camera = new PerspectiveCamera(30, 1.5, 1, 1000);
    camera.up.set(0, 0, 1);
    camera.position.set(5, -100, 3);
    camera.lookAt(5, 0, 3);
    camera.updateMatrixWorld();
    const moved = new Matrix4().makeTranslation(3, 0, 0);
    const at = gripPoint(flat, { kind: "corner", x: 1, y: 1 }).applyMatrix4(moved).project(camera);
    const size = new Vector2(600, 400);
    expect(gripAt(flat, moved, camera, size, at.x + 5 / 300, at.y)).toEqual({ kind: "corner", x: 1, y: 1 });
    expect(gripAt(flat, moved, camera, size, at.x + 15 / 300, at.y)).toBeUndefined();
  });
});

describe("a decal that slides over its face", () => {
  const snaps = {
    across: [
      { at: 4, of: "middle" as const, what: "middle of the face" },
      { at: 40, of: "side" as const, what: "edge of the face" },
    ],
    along: [{ at: -8, of: "side" as const, what: "edge of A" }],
  };

  it("stops at the nearest line, with its middle or its sides", () => {
    const lies = { ...flat, turn: 0 };
    const middle = slid(lies, [4.4, 1], snaps, 1);
    expect(middle.decal.center[0]).toBeCloseTo(9, 9);
    expect(middle.lines).toEqual([{ way: 0, at: 4, what: "middle of the face" }]);
    const side = slid(lies, [30.5, -12.6], snaps, 1);
    expect(side.decal.center[0]).toBeCloseTo(35, 9);
    expect(side.decal.center[2]).toBeCloseTo(-10, 9);
    expect(slid(lies, [4.4, 1], snaps, 0).lines).toEqual([]);
  });

  it("has the sides that it shows when it stands on end, and none when it leans", () => {
    const stands = slid({ ...flat, turn: 90 }, [34.8, 0], snaps, 1);
    expect(stands.decal.center[0]).toBeCloseTo(40, 9);
    expect(slid(flat, [30.2, 0], snaps, 1).lines).toEqual([]);
  });
});
