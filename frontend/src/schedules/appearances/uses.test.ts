import { describe, expect, it } from "vitest";
import type { Standing } from "../../api/client";
import { nameOf, untouchedOf, unusedOf, usesOf } from "./uses";

const appearance = (id: string, family = "metal") => ({ id, name: `The ${id}`, family });
const layer = (id: string, why = "part") => ({ appearance: id, why, key: why === "from CAD" ? "" : "k" });
const worn = (id: string, why: string, layers: object[] = [], faces: Record<string, string> = {}) => ({
  appearance: id, why, layers, faces,
}); // biome-ignore format: a table

const STANDING = {
  scene: {
    appearances: { steel: appearance("steel"), brass: appearance("brass"), kept: appearance("kept") },
    states: { hiddenAway: "suppressed" },
    imported: { "cad-1": "brass" },
    looks: {
      standard: { assignments: { a: "steel" }, rules: [] },
      other: { assignments: {}, rules: [{ appearance: "brass" }] },
    },
  },
  appearances: {
    steel: appearance("steel"), brass: appearance("brass"), kept: appearance("kept"),
    cad: appearance("cad", "from CAD"), grey: appearance("grey", "neutral"),
  },
  worn: {
    a: worn("steel", "part", [layer("steel"), layer("brass", "model")], { 3: "brass" }),
    b: worn("steel", "sub-assembly", [layer("steel", "sub-assembly"), layer("kept", "model")]),
    c: worn("cad", "from CAD", [layer("cad", "from CAD")]),
    d: worn("grey", "nothing yet"),
    hiddenAway: worn("grey", "nothing yet"),
  },
} as unknown as Standing; // biome-ignore format: a table

describe("what an appearance is used for", () => {
  const uses = new Map(usesOf(STANDING).map((use) => [use.appearance.id, use]));

  it("counts parts and faces, and parts where something lies over it", () => {
    expect(uses.get("steel")).toMatchObject({ uids: ["a", "b"], beneath: [], own: true });
    expect(uses.get("brass")).toMatchObject({ uids: ["a"], beneath: [] });
    expect(uses.get("kept")).toMatchObject({ uids: [], beneath: ["b"] });
    expect(uses.get("cad")).toMatchObject({ uids: ["c"], own: false });
  });
  it("puts what is worn most first", () => {
    const counts = usesOf(STANDING).map((use) => use.uids.length);
    expect(counts).toEqual([...counts].sort((a, b) => b - a));
  });
  it("knows what nobody gave anything, but not what is suppressed", () => {
    expect(untouchedOf(STANDING)).toEqual(["c", "d"]);
  });
  it("calls unused only what no look, rule or colour from CAD uses", () => {
    expect(unusedOf(STANDING)).toEqual(["kept"]);
  });
  it("has plain names for what nobody named", () => {
    const named = ["steel", "cad", "grey"].map((id) => nameOf(STANDING.appearances[id]!));
    expect(named).toEqual(["The steel", "CAD colour", "No appearance yet"]);
  });
});
