import { describe, expect, it } from "vitest";
import type { Model, Node, Standing } from "../api/client";
import type { Grouping } from "./deskStore";
import { countParts, listNames, rowsOf } from "./rows";

const node = (uid: string, name: string, parent: string | null, definition: string | null) =>
  ({ uid, name, parent, definition, layers: definition === "screw" ? ["screws"] : [] }) as unknown as Node;

const MODEL = {
  nodes: [
    node("root", "Pump", null, null),
    node("head", "Head", "root", null),
    node("rotor", "Rotor", "head", null),
    node("s1", "Screw M4", "head", "screw"),
    node("s2", "Screw M4", "rotor", "screw"),
    node("r1", "Roller", "rotor", "roller"),
    node("foot", "Foot", "root", "foot"),
  ],
  definitions: {
    screw: { name: "Screw M4 x 12", same_shape: "screw" },
    roller: { name: "Roller", same_shape: "foot" },
    foot: { name: "Foot", same_shape: "foot" },
  },
} as unknown as Model;

const STANDING = { worn: {}, appearances: {}, scene: {} } as unknown as Standing;

const outline = (passed: string[] | undefined, grouping: Grouping, folded: string[] = []) =>
  rowsOf(MODEL, STANDING, passed && new Set(passed), grouping, new Set(folded)).map(
    (row) => `${"  ".repeat(row.depth)}${row.name} ${row.uids.length}`,
  );

describe("rows of the parts schedule", () => {
  it("counts same parts within each first-level sub-assembly; loose parts come first", () => {
    expect(outline(undefined, "same part")).toEqual(["Foot 1", "Head 3", "Screw M4 2", "Roller 1"]);
  });
  it("follows the structure, and a folded group stands for all its parts", () => {
    expect(outline(undefined, "structure")).toEqual([
      "Foot 1",
      "Head 3",
      "  Rotor 2",
      "    Screw M4 1",
      "    Roller 1",
      "  Screw M4 1",
    ]);
    expect(outline(undefined, "structure", ["rotor"])).toEqual([
      "Foot 1",
      "Head 3",
      "  Rotor 2",
      "  Screw M4 1",
    ]);
  });
  it("gathers parts of the same shape under the names they have", () => {
    expect(outline(undefined, "same shape")).toEqual(["Screw M4 2", "Roller · Foot 2"]);
  });
  it("shows what the filter lets through, with its sub-assemblies", () => {
    expect(outline(["s2"], "same part")).toEqual(["Head 1", "Screw M4 1"]);
    expect(outline([], "same part")).toEqual([]);
  });
  it("gathers parts by what they share", () => {
    expect(outline(undefined, "layer")).toEqual([
      "No layer 2",
      "Roller 1",
      "Foot 1",
      "screws 2",
      "Screw M4 2",
    ]);
  });
  it("names what is hit", () => {
    expect(listNames(MODEL, ["s1", "s2", "r1", "foot"], 2)).toBe("Screw M4, Roller and 1 more");
    expect([countParts(1), countParts(2)]).toEqual(["1 part", "2 parts"]);
  });
});
