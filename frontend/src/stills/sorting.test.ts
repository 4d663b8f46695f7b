import { describe, expect, it } from "vitest";
import type { Standing, StillLine } from "../api/client";
import { grouped, passes } from "./sorting";

const STANDING = {
  scene: {
    shots: { a: { name: "Front", place: 1, lighting: null }, b: { name: "Side", place: 0, lighting: null } },
    looks: { plain: { name: "Standard" }, dark: { name: "Carbon" } },
    lightings: { day: { name: "Table top" }, dusk: { name: "Dusk yard" } },
    lit_by: "day",
  },
} as unknown as Standing;
const still = (change: Partial<StillLine>): StillLine =>
  ({
    name: "Front",
    shot_id: "a",
    look: "plain",
    lighting: null,
    state: "done",
    current: true,
    starred: false,
    note: "",
    width: 100,
    height: 50,
    samples: 64,
    seconds: 32,
    relit: false,
    grain: 0.04,
    ...change,
  }) as StillLine;
const ALL = [
  still({}),
  still({ look: "dark", starred: true, current: false }),
  still({ shot_id: "b", name: "Side" }),
  still({ shot_id: "gone", name: "Old" }),
];

describe("the contact sheet", () => {
  it("groups by shot as they are listed, those that were removed last, and by look and lighting", () => {
    const names = (by: "shot" | "look" | "lighting") => grouped(STANDING, ALL, by).map((group) => group.name);
    expect(names("shot")).toEqual(["1 Side", "2 Front", "Old, removed"]);
    expect(names("look")).toEqual(["Carbon", "Standard"]);
    expect(names("lighting")).toEqual(["Table top"]);
    expect(grouped(STANDING, ALL, "shot")[1]!.stills).toHaveLength(2);
  });
  it("filters by all words that stand on a still", () => {
    const found = (filter: string, only: "all" | "starred" | "out of date" = "all") =>
      ALL.filter((one) => passes(STANDING, one, filter, only)).length;
    expect([
      found(""),
      found("carbon"),
      found("front 100 x 50"),
      found("dusk"),
      found("out of date"),
    ]).toEqual([4, 1, 2, 0, 1]);
    expect([found("", "starred"), found("", "out of date")]).toEqual([1, 1]);
  });
});
