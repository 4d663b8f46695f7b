import { describe, expect, it } from "vitest";
import type { Appearance, Model, Standing } from "../api/client";
import { copiesOf, givingEdit, keysOf, reachesOf, ruleEdit, type Target } from "./giving";

const node = (uid: string, definition: string | null, parent: string | null = null) => ({
  uid,
  name: uid,
  definition,
  parent,
  model: "model-1",
});
const MODEL = {
  nodes: [node("group", null), node("a", "d1", "group"), node("b", "d1"), node("c", "d2", "group")],
  definitions: { d1: { faces: ["s0", "s1"], same_shape: "d1" }, d2: { faces: ["t0"], same_shape: "d2" } },
} as unknown as Model;
const STANDING = {
  scene: { look: "dark" },
  worn: {
    a: { appearance: "x", layers: [{ why: "part", key: "a", appearance: "x" }], faces: {} },
    b: { appearance: "x", layers: [{ why: "same part", key: "=a", appearance: "x" }], faces: {} },
    c: { appearance: "y", layers: [], faces: {} },
  },
} as unknown as Standing;
const BRASS = { id: "brass", name: "Brass" } as Appearance;
const target = (uids: string[], faces: Target["faces"] = []): Target => ({
  model: MODEL,
  standing: STANDING,
  uids,
  faces,
});

describe("giving an appearance", () => {
  it("offers only what reaches further than the last", () => {
    expect(reachesOf(target(["a"]))).toEqual([
      "parts",
      "same parts",
      "sub-assembly",
      "model",
      "same appearance",
    ]);
    expect(reachesOf(target(["a", "b"]))).toEqual(["parts", "sub-assembly", "model"]);
    expect(reachesOf(target(["c"], [{ uid: "c", face: 0 }]))[0]).toBe("faces");
  });
  it("reaches parts of the same shape, whatever definition they have", () => {
    const definitions = { ...MODEL.definitions, d2: { ...MODEL.definitions.d2!, same_shape: "d1" } };
    const alike = { ...target(["a", "b"]), model: { ...MODEL, definitions } };
    expect(reachesOf(alike)).toContain("same shape");
    expect(keysOf("same shape", alike)).toEqual(["=a", "=c"]);
  });
  it("knows the parts that a decal can be copied to: the same shape in the same frame", () => {
    const with2 = (d2: object) =>
      ({ ...MODEL, definitions: { ...MODEL.definitions, d2: { ...MODEL.definitions.d2!, ...d2 } } }) as Model;
    const copies = (model: Model, uid: string) => copiesOf(model, uid).map((one) => one.uid);
    expect(copies(MODEL, "a")).toEqual(["b"]);
    expect(copies(MODEL, "c")).toEqual([]);
    expect(copies(with2({ same_shape: "d1", faces: ["s1", "s0"] }), "c")).toEqual(["a", "b"]);
    expect(copies(with2({ same_shape: "d1" }), "c")).toEqual([]);
  });
  it("names places as the scene keeps them", () => {
    expect(keysOf("faces", target(["a"], [{ uid: "a", face: 1 }]))).toEqual(["a#s1"]);
    expect(keysOf("same parts", target(["b"]))).toEqual(["=a"]);
    expect(keysOf("sub-assembly", target(["a", "c"]))).toEqual(["group"]);
    expect(keysOf("model", target(["a", "b"]))).toEqual(["model-1"]);
    expect(keysOf("same appearance", target(["a"]))).toEqual(["a", "b"]);
  });
  it("goes to the look that is shown, and brings its appearance along", () => {
    const edit = givingEdit(BRASS, "parts", target(["c"]));
    expect(edit).toEqual({
      kind: "assign",
      look: "dark",
      assignments: { c: "brass" },
      define: { brass: BRASS },
    });
  });
  it("makes a rule for a filter above all others, or changes the one it has", () => {
    const other = { id: "r1", filter: "nut", appearance: "zinc", surface: null, on: true };
    const ruled = (rules: object[]) =>
      ({ scene: { look: "dark", looks: { dark: { rules } } } }) as unknown as Standing;
    expect(ruleEdit(ruled([other]), "screw", BRASS)).toMatchObject({
      kind: "set_rules",
      rules: [{ filter: "screw", appearance: "brass", on: true }, other],
      define: { brass: BRASS },
    });
    expect(ruleEdit(ruled([{ ...other, on: false }]), "nut", BRASS)).toMatchObject({
      rules: [{ id: "r1", appearance: "brass", on: true }],
    });
  });
  it("changes those too that have their own, without touching others", () => {
    expect(givingEdit(BRASS, "model", target(["c"]), ["a", "b"])).toMatchObject({
      assignments: { a: null, b: "brass", "model-1": "brass" },
    });
  });
});
