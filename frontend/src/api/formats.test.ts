import { describe, expect, it } from "vitest";
import { ACCEPTED, openOf } from "./formats";

describe("files that can be taken in", () => {
  it("are asked only what they leave open", () => {
    expect(openOf("pump.STEP")).toEqual({ exact: true, unitless: false });
    expect(openOf("rib.brep")).toEqual({ exact: true, unitless: true });
    expect(openOf("knob.v2.obj")).toEqual({ exact: false, unitless: true, up: "y" });
    expect(openOf("case.glb")).toEqual({ exact: false, unitless: false, up: undefined });
    expect(openOf("notes.txt")).toBeUndefined();
    expect(ACCEPTED).toContain(".3mf");
  });
});
