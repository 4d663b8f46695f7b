import { describe, expect, it } from "vitest";
import type { Model, Node, Standing } from "../../api/client";
import { alike, diagonal } from "./alike";
import { cell, columnsOf, FIXED } from "./columns";

const node = (uid: string, definition: string | null, more: object = {}) => ({
  uid, name: uid, definition, parent: "root", layers: [], color: null, properties: {}, ...more,
}); // biome-ignore format: a table
const definition = (more: object = {}) => ({
  name: "Screw", bounds: [[0, 0, 0], [3, 4, 12]], volume: 2500, triangles: 640, material: null, deviation: null,
  ...more,
}); // biome-ignore format: a table
const MODEL = {
  nodes: [
    node("root", null, { parent: null }),
    node("a", "screw", { layers: ["Fixings", "All"], properties: { Finish: "zinc" }, color: "red" }),
    node("b", "screw", { properties: { Finish: "black", Vendor: "none" }, color: "red" }),
    node("c", "plate", { layers: ["Fixings", "All"], parent: "lid" }),
  ],
  definitions: { screw: definition({ material: "A2" }), plate: definition({ volume: 0, deviation: 0.01234 }) },
} as unknown as Model; // biome-ignore format: a table
const STANDING = {
  scene: { states: { b: "hidden" } },
  worn: {
    a: { why: "part", appearance: "x" },
    b: { why: "from CAD", appearance: "y" },
    c: { appearance: "x" },
  },
} as unknown as Standing;
const NODES = new Map<string, Node>(MODEL.nodes.map((one) => [one.uid, one]));
const shows = (id: string, ...uids: string[]) =>
  cell(columnsOf(MODEL).find((column) => column.id === id)!, uids, NODES, MODEL, STANDING);

describe("columns of the parts schedule", () => {
  it("are ours and one for every property there is", () => {
    const ids = columnsOf(MODEL).map((column) => column.id);
    expect(ids.slice(FIXED.length)).toEqual(["property Finish", "property Vendor"]);
    expect(new Set(ids).size).toBe(ids.length);
  });
  it.each([
    ["definition", "a", "Screw"],
    ["material", "c", ""],
    ["layer", "a", "Fixings, All"],
    ["size", "a", "3.0 x 4.0 x 12.0 mm"],
    ["volume", "a", "2.50"],
    ["volume", "c", "open"],
    ["deviation", "c", "0.012 mm"],
    ["why", "b", "from CAD"],
    ["state", "b", "hidden"],
    ["state", "a", "shown"],
    ["property Vendor", "a", ""],
  ])("%s of %s is %s", (column, uid, words) => expect(shows(column, uid)).toBe(words));
  it("show what all parts of a row agree on", () => {
    expect(shows("material", "a", "b")).toBe("A2");
    expect(shows("property Finish", "a", "b")).toBe("several");
    expect(shows("triangles", "root", "a", "b")).toBe("640");
    expect(shows("why")).toBe("");
  });
});

describe("parts that share something with the chosen ones", () => {
  it.each([
    ["definition", "a", ["a", "b"]],
    ["color", "a", ["a", "b"]],
    ["layer", "a", ["a", "c"]],
    ["layer", "b", ["b"]],
    ["material", "c", ["c"]],
    ["appearance", "a", ["a", "c"]],
    ["sub-assembly", "b", ["a", "b"]],
  ] as const)("by %s of %s", (what, uid, found) =>
    expect(alike(what, MODEL, STANDING, new Set([uid]))).toEqual(found),
  );
  it("are told apart by the size of their box", () => {
    expect(diagonal(MODEL, NODES.get("a")!)).toBe(13);
  });
});
