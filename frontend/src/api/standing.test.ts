import { describe, expect, it } from "vitest";
import type { Standing, StandingChange } from "./client";
import { forget, knownSeq, patched, received } from "./standing";

const whole = {
  seq: 4,
  scene: { states: { a: "hidden" }, looks: { standard: { name: "Standard", assignments: { a: "x" } } } },
  worn: { a: { appearance: "x" }, b: { appearance: "y" } },
  appearances: { x: { id: "x" } },
  shaded: {},
  burns: {},
  floor: 0,
} as unknown as Standing;
const change = (base: number, seq: number, more: Partial<StandingChange>) =>
  ({
    base,
    seq,
    patch: [],
    worn: {},
    appearances: {},
    shaded: {},
    burns: {},
    floor: 1,
    ...more,
  }) as unknown as StandingChange;

describe("a standing and what changes it", () => {
  it("is kept, and becomes another by what changed", () => {
    forget("r");
    expect(received("r", whole)).toBe(whole);
    const next = received(
      "r",
      change(4, 5, {
        patch: [{ op: "remove", path: "/states/a", value: null }],
        worn: { a: { appearance: "z" } } as unknown as Standing["worn"],
      }),
    )!;
    expect(next.scene.states).toEqual({});
    expect(next.worn.a!.appearance).toBe("z");
    expect(next.worn.b).toBe(whole.worn.b);
    expect(next.floor).toBe(1);
    expect(whole.scene.states).toEqual({ a: "hidden" });
    expect(knownSeq("r")).toBe(5);
  });
  it("builds on one that was overtaken, but on none that is not here", () => {
    forget("r");
    received("r", whole);
    received("r", change(4, 6, {}));
    expect(received("r", change(4, 5, {}))!.seq).toBe(5);
    expect(knownSeq("r")).toBe(6);
    expect(received("r", change(2, 7, {}))).toBeUndefined();
  });
  it("patches by keys with slashes, and leaves the rest as it is", () => {
    const before = { a: { "x/y~": 1 }, b: { c: 2 } };
    const after = patched(before, [
      { op: "replace", path: "/a/x~1y~0", value: 5 },
      { op: "add", path: "/a/n", value: null },
    ]);
    expect(after).toEqual({ a: { "x/y~": 5, n: null }, b: { c: 2 } });
    expect(after.b).toBe(before.b);
    expect(before.a["x/y~"]).toBe(1);
  });
});
