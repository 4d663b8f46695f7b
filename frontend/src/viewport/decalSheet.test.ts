import { BufferAttribute, BufferGeometry, Matrix4 } from "three";
import { describe, expect, it } from "vitest";
import type { Decal } from "../api/client";
import { cutSheet, shiftedSheet } from "./decalSheet";
import type { PartMesh } from "./meshblock";

/** Two squares of 10 mm beside each other, x from 0 to 20; on the sheet of their face u is x, and v is y. */
function strip(flip = 1, shift = 0): PartMesh {
  const surface = new BufferGeometry();
  const points = [0, 10, 20].flatMap((x) => [0, 10].map((y) => [x, y]));
  surface.setAttribute(
    "position",
    new BufferAttribute(new Float32Array(points.flatMap(([x, y]) => [x!, y!, 0])), 3),
  );
  surface.setAttribute("normal", new BufferAttribute(new Float32Array(points.flatMap(() => [0, 0, 1])), 3));
  surface.setAttribute(
    "uv",
    new BufferAttribute(new Float32Array(points.flatMap(([x, y]) => [x! + shift, flip * y!])), 2),
  );
  surface.setIndex([0, 2, 3, 0, 3, 1, 2, 4, 5, 2, 5, 3]);
  return { surface, faceRanges: new Uint32Array([0, 4]), triangles: 4 } as PartMesh;
}

const label = (sheet: Partial<NonNullable<Decal["sheet"]>>, more: Partial<Decal> = {}) =>
  ({
    width: 10,
    height: 5,
    turn: 0,
    ...more,
    sheet: { face: "f", at: [10, 5], along: 0, flipped: false, period: null, stretch: [1, 1], ...sheet },
  }) as unknown as Decal;

/** Shares of the picture at a corner that lies at a place. */
function seen(decal: Decal, mesh: PartMesh, x: number, y: number): [number, number] {
  const made = cutSheet(decal, 0, new Matrix4(), mesh);
  const [at, uv] = [made.getAttribute("position"), made.getAttribute("uv")];
  const k = Array.from({ length: at.count }, (_, n) => n).find((n) => at.getX(n) === x && at.getY(n) === y)!;
  return [uv.getX(k), uv.getY(k)];
}

describe("a decal that follows its face", () => {
  it("lies where the sheet says, in mm of the surface", () => {
    expect(seen(label({}), strip(), 10, 0)).toEqual([0.5, -0.5]);
    expect(seen(label({}), strip(), 20, 10)).toEqual([1.5, 1.5]);
    expect(seen(label({ stretch: [2, 1] }), strip(), 20, 10)).toEqual([1, 1.5]);
    const [x, y] = seen(label({ along: 90 }), strip(), 10, 10);
    expect([x, y]).toEqual([expect.closeTo(1, 9), expect.closeTo(0.5, 9)]);
  });

  it("stands upright where the sheet is seen from behind", () => {
    expect(seen(label({ at: [10, -5], flipped: true }), strip(-1), 20, 10)).toEqual([1.5, 1.5]);
  });

  it("goes on beyond the seam of a face that closes up", () => {
    expect(seen(label({ period: [100, 0] }), strip(1, 100), 20, 10)).toEqual([1.5, 1.5]);
    const away = cutSheet(label({}), 0, new Matrix4(), strip(1, 100));
    expect(away.getAttribute("position").count).toBe(0);
  });

  it("is shifted along its own directions", () => {
    const turned = label({ along: 90, stretch: [2, 1] }, { turn: 90 });
    // Its width runs up by 90 degrees twice: to the left.
    const { at } = shiftedSheet(turned, 3, 0)!;
    expect(at).toEqual([expect.closeTo(7, 9), expect.closeTo(5, 9)]);
    expect(shiftedSheet({ ...turned, sheet: null }, 3, 0)).toBeNull();
    const moved = { ...turned, sheet: shiftedSheet(turned, 3, 2) } as Decal;
    const [before, after] = [seen(turned, strip(), 10, 0), seen(moved, strip(), 10, 0)];
    expect((before[0] - after[0]) * 10).toBeCloseTo(3, 5);
    expect((before[1] - after[1]) * 5).toBeCloseTo(2, 5);
  });
});
