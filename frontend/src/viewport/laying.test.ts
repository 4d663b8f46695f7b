import { Matrix4, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Edit, Laying, Model, Standing } from "../api/client";
import { firstFrame, frameOf, layingEdit, layingOf } from "./laying";

/** Rows of a matrix that places a part, as the model tells them. */
const rows = (matrix: Matrix4) => matrix.clone().transpose().elements;
const box = { bounds: [
  [0, 0, 0],
  [40, 20, 10],
] }; // biome-ignore format: a box
const turned = new Matrix4().makeRotationZ(0.7).setPosition(100, 5, 0);
const model = {
  definitions: { d: box },
  nodes: [
    { uid: "a", definition: "d", world: rows(new Matrix4()) },
    { uid: "b", definition: "d", world: rows(turned) },
  ],
} as unknown as Model;
const standing = (layings: Record<string, Laying> = {}) =>
  ({ scene: { look: "standard", looks: { standard: { layings } } } }) as unknown as Standing;
type Lay = Extract<Edit, { kind: "lay_pictures" }>;

const frame = new Matrix4().makeRotationX(0.4).setPosition(7, -3, 12);
const lay = (uids: string[]) =>
  layingEdit(model, standing(), "one", { kind: "plane", radius: 10, frame, uids }) as Lay;

describe("pictures laid on several parts in one frame", () => {
  it("have the same frame, told by any of the parts", () => {
    const laying = lay(["a", "b"]).layings.one!;
    for (const uid of ["a", "b"]) {
      const alone = { ...laying, parts: { [uid]: laying.parts[uid]! } };
      const found = frameOf(model, alone)!;
      found.elements.forEach((value, k) => {
        expect(value).toBeCloseTo(frame.elements[k]!, 6);
      });
    }
  });

  it("are found by their parts, and lost with the last of them", () => {
    const laying = lay(["a", "b", "gone"]).layings.one!;
    expect(Object.keys(laying.parts)).toEqual(["a", "b"]);
    expect(layingOf(standing({ one: laying }), ["b"])).toBe("one");
    expect(layingOf(standing({ one: laying }), ["b", "c"])).toBeUndefined();
    expect(frameOf(model, { ...laying, parts: { gone: laying.parts.a! } })).toBeUndefined();
  });
});

describe("a frame to begin with", () => {
  const only = new Set(["a"]);
  const way = (matrix: Matrix4, column: number) =>
    new Vector3().setFromMatrixColumn(matrix, column).toArray().map(Math.abs);
  it.each([
    ["plane", [0, 0, 1]],
    ["cylinder", [1, 0, 0]],
    ["box", [0, 0, 1]],
  ] as const)("lies in the middle, along what suits it: %s", (kind, along) => {
    const { frame: found } = firstFrame(model, only, kind);
    expect(new Vector3().setFromMatrixPosition(found).toArray()).toEqual([20, 10, 5]);
    expect(way(found, 2)).toEqual(along);
    expect(found.determinant()).toBeCloseTo(1, 9);
  });
  it("has the radius of what lies across its axis", () => {
    expect(firstFrame(model, only, "cylinder").radius).toBeCloseTo((20 + 10) / 4, 9);
  });
});
