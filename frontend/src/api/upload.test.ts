import { describe, expect, it, test } from "vitest";
import {
  byModel,
  defaultsFor,
  furtherCount,
  holdFurther,
  problemWith,
  sentWords,
  takeFurther,
  together,
} from "./upload";

const file = (name: string, content = "x") => new File([content], name);

describe("a file that is to be taken in", () => {
  it("is asked what its format leaves open", () => {
    expect(defaultsFor("Pump v2.step")).toEqual({ name: "Pump v2", quality: "fair", unit: "as written", up: "as written" });
    expect(defaultsFor("bracket.stl")).toMatchObject({ name: "bracket", unit: "mm", up: "z" });
    expect(defaultsFor("lamp.obj")).toMatchObject({ unit: "mm", up: "y" });
    expect(defaultsFor("lamp.glb").unit).toBe("as written");
  }); // biome-ignore format: a table
  it("is refused with words when it is no CAD file or empty", () => {
    expect(problemWith(file("notes.docx"))).toContain("Export STEP from CAD");
    expect(problemWith(file("pump.step", ""))).toContain("is empty");
    expect(problemWith(file("PUMP.STP"))).toBeUndefined();
  });
  it("is told by its bytes while it is sent", () => {
    expect(sentWords({ sent: 34_400_000, size: 120_000_000 })).toBe("34 of 120 MB");
    expect(sentWords({ sent: 250_000, size: 4_000_000 })).toBe("0.3 of 4.0 MB");
  });
  it("comes alone as it is, with its side files as one", async () => {
    const alone = file("pump.step");
    expect(await together([alone])).toBe(alone);
    expect(await together([])).toBeUndefined();
    const several = await together([file("wood.png"), file("chair.obj"), file("chair.mtl")]);
    expect(several!.name).toBe("chair.zip");
  });
});

const names = (groups: File[][]) => groups.map((group) => group.map((one) => one.name));

test("files are one model, or one for each that opens alone, with all side files", () => {
  const mesh = [file("cap.obj"), file("cap.mtl"), file("wood.png")];
  expect(names(byModel(mesh))).toEqual([["cap.obj", "cap.mtl", "wood.png"]]);
  expect(names(byModel([file("a.step"), file("b.glb")]))).toEqual([["a.step"], ["b.glb"]]);
  expect(names(byModel([...mesh, file("b.obj")]))).toEqual([
    ["cap.obj", "cap.mtl", "wood.png"],
    ["b.obj", "cap.mtl", "wood.png"],
  ]);
});

test("models that wait for a first one are handed over once, and to it alone", () => {
  holdFurther("a.step", [file("b.step")]);
  expect([furtherCount("a.step"), furtherCount("c.step")]).toEqual([1, 0]);
  expect(takeFurther("c.step")).toEqual([]);
  expect(takeFurther("a.step").map((one) => one.name)).toEqual(["b.step"]);
  expect(takeFurther("a.step")).toEqual([]);
});
