import { afterEach, describe, expect, it } from "vitest";
import type { Lamp, Lighting, Standing } from "../api/client";
import { useLength } from "../words/length";
import { floorOf, freshId, inOrder, lampWords, lightingOf, litBy, stands } from "./lighting";

const lamp = (kind: Lamp["kind"], numbers: object = {}) => ({ kind, ...numbers }) as unknown as Lamp;
const standing = {
  scene: {
    lit_by: "day",
    lightings: { day: { name: "Day", place: 1 }, night: { name: "Night", place: 0 } },
    shots: { a: { lighting: null }, b: { lighting: "night" }, c: { lighting: "gone" } },
  },
} as unknown as Standing;

afterEach(() => useLength.setState({ unit: "mm" }));

describe("the floor of a lighting", () => {
  const finish = (lift: number) => ({ floor_finish: { lift } }) as Lighting;
  const tilted = { up: [0, -0.6, 0.8], height: 7 };
  const laid = {
    floor: -20,
    tilted: { night: tilted },
    scene: { lightings: { day: finish(2), night: finish(2) } },
  } as unknown as Standing;

  it("is level at its height, or tilted as told", () => {
    expect(floorOf(laid, "day", finish(2))).toEqual({ up: [0, 0, 1], height: -18 });
    expect(floorOf(laid, "night", finish(2))).toEqual(tilted);
  });
  it("is previewed at another height", () => {
    expect(floorOf(laid, "day", finish(5)).height).toBe(-15);
    expect(floorOf(laid, "night", finish(5)).height).toBe(10);
  });
});

describe("the lighting of a shot", () => {
  it("is its own as long as that is there, else the review's", () => {
    expect(["a", "b", "c", "none"].map((id) => lightingOf(standing, id).id)).toEqual([
      "day",
      "night",
      "day",
      "day",
    ]);
  });
  it("can be tried without an edit", () => {
    const tried = litBy(standing, "a", "night");
    expect(lightingOf(tried, "a").id).toBe("night");
    expect(lightingOf(standing, "a").id).toBe("day");
  });
  it("stands in a list by its place", () => {
    expect(inOrder(standing.scene.lightings).map(([id]) => id)).toEqual(["night", "day"]);
  });
});

describe("a lamp in a few words", () => {
  it.each([
    [lamp("panel", { width: 400, height: 600 }), "panel 400 x 600 mm"],
    [lamp("panel", { width: 400, height: 400, round: true }), "round panel 400 mm"],
    [lamp("tube", { length: 1200 }), "tube 1200 mm"],
    [lamp("spot", { outer: 22.4 }), "spot 45°"],
    [lamp("point", { lumen: 806.4 }), "point, 806 lm"],
    [lamp("field", { columns: 8, rows: 5 }), "40 bulbs"],
    [lamp("photometric"), "by its photometric file"],
    [lamp("card", { surface: "black", width: 50, height: 70 }), "black card 50 x 70 mm"],
    [lamp("distant", { elevation: 41.6 }), "far away, 42° high"],
  ])("%#", (one, words) => expect(lampWords(one)).toBe(words));

  it("has its lengths in the unit that is selected", () => {
    useLength.setState({ unit: "in" });
    expect(lampWords(lamp("panel", { width: 254, height: 508 }))).toBe("panel 10.00 x 20.00 in");
  });

  it("says whether it has a place in the scene", () => {
    expect([stands(lamp("spot")), stands(lamp("distant")), stands(undefined)]).toEqual([true, false, false]);
  });
});

describe("a key for a further one", () => {
  it("is the wish where that is free, and else one like it that no other has", () => {
    expect(freshId({ rim: 1 }, "key")).toBe("key");
    const next = freshId({ key: 1 }, "key");
    expect(next).toMatch(/^key-[0-9a-f]{8}$/);
    expect(freshId({ [next]: 1 }, next)).not.toBe(next);
  });
});
