import { afterEach, describe, expect, it, vi } from "vitest";
import { inOwnForm, length, parseLength, sizeWords, useLength } from "./length";

afterEach(() => useLength.setState({ unit: "mm" }));

describe("lengths", () => {
  it("are shown in the unit that is selected, as finely as in mm", () => {
    expect(length(25.4, 1)).toBe("25.4 mm");
    useLength.setState({ unit: "in" });
    expect(length(25.4, 0)).toBe("1.00 in");
    useLength.setState({ unit: "m" });
    expect(sizeWords([1840, 1430, 20])).toBe("1.840 x 1.430 x 0.020 m");
  });

  it("have more digits the smaller the whole is", () => {
    expect(sizeWords([3, 4.56, 1])).toBe("3.00 x 4.56 x 1.00 mm");
    expect(sizeWords([184, 143.2, 185.4])).toBe("184 x 143 x 185 mm");
  });

  it("may be typed with a unit of their own", () => {
    expect(parseLength("12,5")).toBe(12.5);
    expect(parseLength("1.5in")).toBeCloseTo(38.1, 9);
    expect(parseLength('2"')).toBeCloseTo(50.8, 9);
    expect(parseLength(" 3 cm ")).toBe(30);
    expect(parseLength("2", "m")).toBe(2000);
    expect(parseLength("wide")).toBeUndefined();
    expect(parseLength("")).toBeUndefined();
  });
});

it("numbers in what the core said are written as the browser does; names are left", () => {
  const said = "Key: \u2060+0.5 EV, \u20601,280 x 960 pixels on Clip 2.5";
  expect(inOwnForm(said)).toBe("Key: +0.5 EV, 1,280 x 960 pixels on Clip 2.5");
  const written = vi.spyOn(Number.prototype, "toLocaleString");
  written.mockImplementation(function (this: number) {
    return new Intl.NumberFormat("de", { maximumFractionDigits: 1 }).format(this.valueOf());
  });
  expect(inOwnForm(said)).toBe("Key: +0,5 EV, 1.280 x 960 pixels on Clip 2.5");
  written.mockRestore();
});

describe("lengths in what the core said", () => {
  const said = "sharp from 1,234\u202fmm to 0.25\u202fmm; a lens of 50 mm";
  it("are told in the own unit; those that are always in mm stay", () => {
    expect(inOwnForm(said)).toBe("sharp from 1234 mm to 0.25 mm; a lens of 50 mm");
    useLength.setState({ unit: "in" });
    expect(inOwnForm(said)).toBe("sharp from 48.58 in to 0.0098 in; a lens of 50 mm");
  });
});
