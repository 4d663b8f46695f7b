import { describe, expect, it } from "vitest";
import type { Model, Schemas, Section, Shot, Standing } from "../api/client";
import { cutModel, cutStanding, flipped, towards, wayOf } from "./section";

const model = {
  arrangement: "a1",
  nodes: [
    { uid: "top" },
    { uid: "p", definition: "d1" },
    { uid: "q", definition: "d1" },
    { uid: "r", definition: "d2" },
  ],
  definitions: { d1: { mesh: "m1", triangles: 12 }, d2: { mesh: "m2", triangles: 4 } },
} as unknown as Model;
const shown = {
  gone: ["r"],
  cut: { q: { mesh: "m1~1,0,0,5", face: 6 } },
  cap: null,
  shaded: null,
} as unknown as Schemas["SectionShown"];
const section: Section = { normal: [0, -1, 0], offset: 4, color: null, whole: [] };

describe("a section on the desk", () => {
  it("gives the parts that it crosses a mesh of their own", () => {
    const cut = cutModel(model, shown);
    const meshOf = (uid: string) =>
      cut.definitions[cut.nodes.find((node) => node.uid === uid)!.definition!]!.mesh;
    expect([meshOf("p"), meshOf("q"), meshOf("r")]).toEqual(["m1", "m1~1,0,0,5", "m2"]);
    expect(cut.arrangement).not.toBe(model.arrangement);
    expect(cutModel(model, undefined)).toBe(model);
    expect(cutModel(model, { ...shown, cut: {} })).toBe(model);
  });

  it("hides what lies before it and colours the faces that close it", () => {
    const own = { appearance: "steel", faces: { 2: "red" }, why: "you" };
    const standing = {
      scene: { states: { p: "suppressed" } },
      worn: { q: own },
      appearances: {},
      shaded: {},
    } as unknown as Standing;
    const plain = cutStanding(standing, shown);
    expect(plain.scene.states).toEqual({ p: "suppressed", r: "hidden" });
    expect(plain.worn).toBe(standing.worn);
    const cap = { id: "section-cut" } as Schemas["Appearance"];
    const colored = cutStanding(standing, { ...shown, cap, shaded: {} as Schemas["Shaded"] });
    expect(colored.worn.q!.faces).toEqual({ 2: "red", 6: "section-cut" });
    expect(colored.appearances["section-cut"]).toBe(cap);
    expect(cutStanding(standing, undefined)).toBe(standing);
  });

  it("starts on the side that the camera looks at, and turns to the other", () => {
    const camera = (position: number[]) => ({ position, target: [0, 0, 0] }) as unknown as Shot["camera"];
    expect(towards(camera([50, -100, 30]))).toEqual([0, -1, 0]);
    expect(towards(camera([150, -100, 30]))).toEqual([1, 0, 0]);
    expect(towards(camera([0, 0, 30]))).toEqual([0, -1, 0]);
    expect(flipped(section)).toEqual({ ...section, normal: [0, 1, 0], offset: -4 });
    expect(flipped(flipped(section))).toEqual(section);
  });

  it("knows the axis that it runs across", () => {
    expect([wayOf(section), wayOf({ ...section, normal: [0, 0, 2] })]).toEqual(["y", "z"]);
    expect(wayOf({ ...section, normal: [0.6, 0, 0.8] })).toBe("own");
  });
});
