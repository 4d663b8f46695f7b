import { describe, expect, it } from "vitest";
import { toHex, toLinear } from "./color";

describe("colours (IEC 61966-2-1)", () => {
  it("knows the familiar values", () => {
    expect(toLinear("#808080")[0]).toBeCloseTo(0.2159, 4);
    expect(toHex([0.18, 0.18, 0.18])).toBe("#767676");
    expect(toHex([-1, 0.5, 7])).toBe("#00BCFF");
  });
  it("goes there and back for every value", () => {
    for (let v = 0; v < 256; v += 5) {
      const hex = `#${v.toString(16).padStart(2, "0").repeat(3)}`.toUpperCase();
      expect(toHex(toLinear(hex))).toBe(hex);
    }
  });
});
