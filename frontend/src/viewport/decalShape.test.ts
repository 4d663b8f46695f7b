import { BoxGeometry, CylinderGeometry, Matrix4, Mesh, MeshBasicMaterial, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Decal } from "../api/client";
import { cut, laidOut, outlineOf, pointOn, shifted } from "./decalShape";

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

describe("what of a part wears a decal", () => {
  const box = new BoxGeometry(40, 40, 40);
  const body = new Mesh(box, new MeshBasicMaterial());
  const label = {
    ...flat,
    center: [0, -20, 0],
    turn: 0,
    width: 20,
    height: 10,
    depth: 2,
  } as unknown as Decal;

  it("is the face that looks to its front, with the picture once across it", () => {
    const made = cut(label, new Matrix4(), body);
    const at = made.getAttribute("position");
    const uv = made.getAttribute("uv");
    expect(at.count).toBeGreaterThan(0);
    for (let k = 0; k < at.count; k++) {
      expect(at.getY(k)).toBeCloseTo(-20, 5);
      expect(uv.getX(k)).toBeCloseTo(at.getX(k) / 20 + 0.5, 5);
      expect(uv.getY(k)).toBeCloseTo(at.getZ(k) / 10 + 0.5, 5);
    }
  });

  it("is nothing beyond its depth, and nothing on the back", () => {
    const off = { ...label, center: [0, -30, 0] } as unknown as Decal;
    expect(cut(off, new Matrix4(), body).getAttribute("position").count).toBe(0);
    const behind = { ...label, right: [-1, 0, 0] } as unknown as Decal;
    expect(cut(behind, new Matrix4(), body).getAttribute("position").count).toBe(0);
  });

  it("goes along with its part", () => {
    const moved = new Matrix4().makeTranslation(7, 0, 3);
    const still = new Mesh(box, new MeshBasicMaterial());
    still.matrixWorld.copy(moved);
    const at = cut(label, moved, still).getAttribute("position");
    const xs = Array.from({ length: at.count }, (_, k) => at.getX(k));
    expect((Math.min(...xs) + Math.max(...xs)) / 2).toBeCloseTo(7, 4);
  });

  it("is all round a cylinder, by arc length", () => {
    const tube = new CylinderGeometry(15, 15, 60, 96, 1, true).rotateX(Math.PI / 2);
    const tubeBody = new Mesh(tube, new MeshBasicMaterial());
    const wrapped = {
      ...label,
      center: [0, -15, 0],
      width: 60,
      wrap: { radius: 15, along: "up" },
    } as unknown as Decal;
    const made = cut(wrapped, new Matrix4(), tubeBody);
    const at = made.getAttribute("position");
    const uv = made.getAttribute("uv");
    const within = Array.from({ length: at.count }, (_, k) => k).filter(
      (k) => uv.getX(k) > 0.02 && uv.getX(k) < 0.98,
    );
    expect(within.length).toBeGreaterThan(30);
    for (const k of within) {
      const angle = Math.atan2(at.getX(k), -at.getY(k));
      expect((uv.getX(k) - 0.5) * 60).toBeCloseTo(15 * angle, 3);
    }
  });
});

describe("a decal's outline", () => {
  it("runs along the arc", () => {
    const line = outlineOf({ ...round(20, "up"), width: 30, height: 10 } as Decal).getAttribute("position");
    for (let k = 0; k < line.count; k++) expect(Math.hypot(line.getX(k), line.getY(k))).toBeCloseTo(20, 5);
  });
});
