import {
  BoxGeometry,
  CylinderGeometry,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  Texture,
  Vector2,
  Vector3,
} from "three";
import { describe, expect, it } from "vitest";
import type { Decal } from "../api/client";
import { cut, laidOut, onlyFaces, outlineOf, pointOn, readied, shifted } from "./decalShape";

const flat = {
  center: [5, -20, 3],
  right: [1, 0, 0],
  up: [0, 0, 1],
  turn: 30,
  wrap: null,
} as unknown as Decal;
const round = (radius: number, along: "up" | "right", taper = 0) =>
  ({ ...flat, center: [0, -20, 0], turn: 0, wrap: { radius, along, taper } }) as Decal;

describe("where a decal lies", () => {
  it.each([
    ["flat", flat],
    ["round a cylinder", round(20, "up")],
    ["in a bore", round(-20, "up")],
    ["round an axis along its width", round(20, "right")],
    ["round a cone", round(20, "up", 30)],
    ["in a funnel, turned", { ...round(-20, "right", -50), turn: 25 }],
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

  it.each([
    [20, 30],
    [-20, 30],
    [20, -45],
  ])("stays on its cone when it is shifted, radius %d and %d degrees", (radius, taper) => {
    const lay = round(radius, "up", taper);
    const moved = { ...lay, ...shifted(lay, 9, 4) } as Decal;
    const apart =
      Math.sin((taper * Math.PI) / 180) *
      Math.hypot(9, Math.abs(radius) / Math.sin((taper * Math.PI) / 180) + 4);
    expect(Math.abs(moved.wrap!.radius)).toBeCloseTo(Math.abs(apart), 3);
    expect(laidOut(lay, new Vector3(...moved.center))[2]).toBeCloseTo(0, 9);
    // A spot of the cone lies as far from both middles as they say.
    const spot = pointOn(lay, 11, 7);
    const [x, y] = laidOut(moved, spot);
    expect(Math.hypot(x, y)).toBeCloseTo(Math.hypot(11 - 9, 7 - 4), 3);
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
      wrap: { radius: 15, along: "up", taper: 0 },
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

  it("is all round a cone, as a fan", () => {
    // 12 mm at the top and 24 at the bottom, 20 high: its tip lies 20 above the top.
    const cone = new CylinderGeometry(12, 24, 20, 96, 1, true).rotateX(Math.PI / 2);
    const taper = -Math.atan(12 / 20);
    const wrapped = {
      ...label,
      center: [0, -18, 0],
      up: [0, -Math.sin(taper), Math.cos(taper)],
      width: 40,
      height: 14,
      wrap: { radius: 18, along: "up", taper: (taper * 180) / Math.PI },
    } as unknown as Decal;
    const made = cut(wrapped, new Matrix4(), new Mesh(cone, new MeshBasicMaterial()));
    const [at, uv] = [made.getAttribute("position"), made.getAttribute("uv")];
    expect(at.count).toBeGreaterThan(60);
    let seen = 0;
    for (let k = 0; k < at.count; k++) {
      const point = new Vector3().fromBufferAttribute(at, k);
      // Corners of the facets' sides lie on the cone: from the tip they are as far as along the paper.
      if (Math.abs(Math.hypot(point.x, point.y) - (30 - point.z) * 0.6) > 1e-3) continue;
      const far = Math.hypot(point.x, point.y, 30 - point.z);
      const fan = Math.atan2(point.x, -point.y) * Math.sin(-taper);
      expect((uv.getX(k) - 0.5) * 40).toBeCloseTo(far * Math.sin(fan), 2);
      expect((uv.getY(k) - 0.5) * 14).toBeCloseTo(Math.hypot(18, 30) - far * Math.cos(fan), 2);
      seen++;
    }
    expect(seen).toBeGreaterThan(20);
  });
});

describe("a decal's outline", () => {
  it("runs along the arc", () => {
    const line = outlineOf({ ...round(20, "up"), width: 30, height: 10 } as Decal).getAttribute("position");
    for (let k = 0; k < line.count; k++) expect(Math.hypot(line.getX(k), line.getY(k))).toBeCloseTo(20, 5);
  });
});

describe("what a decal is kept to", () => {
  it("are the triangles of its faces, with what their corners carry", () => {
    const box = new BoxGeometry(40, 40, 40);
    const ranges = new Uint32Array(Array.from({ length: 6 }, (_, face) => [2 * face, 2]).flat());
    const kept = onlyFaces(box, ranges, [1, 3]);
    expect(kept.getIndex()!.count).toBe(12);
    const xs = Array.from(kept.getIndex()!.array, (corner) => kept.getAttribute("normal").getX(corner));
    // Faces of a box of three: +x, -x, +y, -y, +z, -z.
    expect(xs).toEqual([...Array(6).fill(-1), ...Array(6).fill(0)]);
    expect(onlyFaces(box, ranges, []).getIndex()!.count).toBe(0);
  });
});

describe("a decal's picture", () => {
  it.each([
    [true, 0.9],
    [false, 0.1],
  ])("has left and right exchanged where it is mirrored: %s", (mirrored, seen) => {
    const picture = readied(new Texture(), { mirrored } as Decal);
    picture.updateMatrix = () => {
      throw new Error("it stays as it was made");
    };
    expect(new Vector2(0.1, 0.3).applyMatrix3(picture.matrix).toArray()).toEqual([
      expect.closeTo(seen, 9),
      0.3,
    ]);
    expect(picture.matrixAutoUpdate).toBe(false);
  });
});
