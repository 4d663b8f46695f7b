import { describe, expect, it } from "vitest";
import type { Model, Node } from "../../api/client";
import { countParts, listNames, rowsOf } from "./rows";

const node = (uid: string, name: string, parent: string | null, definition: string | null) =>
  ({ uid, name, parent, definition }) as Node;

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
  definitions: { screw: { name: "Screw M4 x 12" }, roller: { name: "Roller" }, foot: { name: "Foot" } },
} as unknown as Model;

const outline = (filter: string, grouping: "structure" | "same part", folded: string[] = []) =>
  rowsOf(MODEL, filter, grouping, new Set(folded)).map(
    (row) => `${"  ".repeat(row.depth)}${row.name} ${row.uids.length}`,
  );

describe("rows of the parts schedule", () => {
  it("counts same parts within each first-level sub-assembly; loose parts come first", () => {
    expect(outline("", "same part")).toEqual(["Foot 1", "Head 3", "Screw M4 2", "Roller 1"]);
  });
  it("follows the structure, and a folded group stands for all its parts", () => {
    expect(outline("", "structure")).toEqual([
      "Foot 1",
      "Head 3",
      "  Rotor 2",
      "    Screw M4 1",
      "    Roller 1",
      "  Screw M4 1",
    ]);
    expect(outline("", "structure", ["rotor"])).toEqual(["Foot 1", "Head 3", "  Rotor 2", "  Screw M4 1"]);
  });
  it("wants every word, in the name, the definition's or a sub-assembly's", () => {
    expect(outline("rotor screw", "same part")).toEqual(["Head 1", "Screw M4 1"]);
    expect(outline("x 12", "same part")).toEqual(["Head 2", "Screw M4 2"]);
    expect(outline("nut", "same part")).toEqual([]);
  });
  it("names what is hit", () => {
    expect(listNames(MODEL, ["s1", "s2", "r1", "foot"], 2)).toBe("Screw M4, Roller and 1 more");
    expect([countParts(1), countParts(2)]).toEqual(["1 part", "2 parts"]);
  });
});
