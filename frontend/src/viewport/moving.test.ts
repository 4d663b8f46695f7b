import { Matrix4, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Model, Standing } from "../api/client";
import { alike } from "../schedules/parts/alike";
import { extentOf, frameAround, nodeToMove, pivotOf } from "./moving";
import { faceOf } from "./picking";
import { IN_PLACE, placementMatrix, placementOf } from "./placement";

const at = (x: number) => [1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
const part = (uid: string, parent: string, x: number, definition = "d") => ({
  uid, name: uid, parent, definition, model: "model-1", world: at(x), layers: [], color: null, properties: {},
}); // biome-ignore format: a table
const group = (uid: string, parent: string | null) => ({
  ...part(uid, "", 0),
  parent,
  definition: null,
  world: null,
});
const MODEL = {
  nodes: [group("root", null), group("lid", "root"), part("a", "lid", 0), part("b", "lid", 100), part("c", "root", 0, "e")],
  definitions: { d: { bounds: [[0, 0, 0], [10, 10, 10]] }, e: { bounds: [[0, 0, 0], [1, 1, 1]] } },
} as unknown as Model; // biome-ignore format: a table
const use = { name: "m", revision: "r", placement: { ...IN_PLACE, shift: [0, 0, 50] }, piece: null };
const STANDING = {
  scene: { models: { "model-1": use }, moves: { lid: { ...IN_PLACE, shift: [0, 0, 7] } } },
  worn: {},
} as unknown as Standing;

describe("what a choice amounts to", () => {
  it("is a part, or the sub-assembly of which everything is chosen", () => {
    expect(nodeToMove(MODEL, new Set(["a"]))?.uid).toBe("a");
    expect(nodeToMove(MODEL, new Set(["a", "b"]))?.uid).toBe("lid");
    expect(nodeToMove(MODEL, new Set(["a", "b", "c"]))?.uid).toBe("root");
    expect(nodeToMove(MODEL, new Set(["a", "c"]))).toBeUndefined();
    expect(extentOf(MODEL, new Set(["a", "b"]))).toEqual([110, 10, 10]);
  });
  it("is moved inside what it lies in", () => {
    const target = nodeToMove(MODEL, new Set(["a"]))!;
    const frame = frameAround(MODEL, STANDING, target);
    expect(new Vector3().applyMatrix4(frame).z).toBe(57);
    expect(pivotOf(MODEL, STANDING, target)).toEqual([5, 5, -52]);
  });
  it("finds others alike", () => {
    expect(alike("definition", MODEL, STANDING, new Set(["a"]))).toEqual(["a", "b"]);
    expect(alike("layer", MODEL, STANDING, new Set(["a"]))).toEqual(["a"]);
    expect(alike("sub-assembly", MODEL, STANDING, new Set(["c"]))).toEqual(["c"]);
  });
});

describe("placements", () => {
  it("are the core's: about x, then y, then z, round the pivot, then shifted", () => {
    const matrix = placementMatrix({ shift: [1, 2, 3], turn: [90, 0, 90], pivot: [10, 0, 0] });
    // (10, 1, 0) is (0, 1, 0) off the pivot: x turns it to (0, 0, 1), z leaves it.
    const moved = new Vector3(10, 1, 0).applyMatrix4(matrix);
    expect(moved.toArray().map((v) => +v.toFixed(9))).toEqual([11, 2, 4]);
    const back = placementOf(matrix, [10, 0, 0]);
    expect(back).toEqual({ shift: [1, 2, 3], turn: [90, 0, 90], pivot: [10, 0, 0] });
    const other = placementMatrix(placementOf(matrix, [3, -4, 5]));
    expect(other.elements.every((v, k) => Math.abs(v - new Matrix4().copy(matrix).elements[k]!) < 1e-4)).toBe(
      true,
    );
  });
  it("a triangle's face is found in the ranges", () => {
    const ranges = new Uint32Array([0, 2, 2, 5, 7, 1]);
    expect([0, 1, 2, 6, 7].map((triangle) => faceOf(ranges, triangle))).toEqual([0, 0, 1, 1, 2]);
  });
});
