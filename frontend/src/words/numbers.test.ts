import { expect, test, vi } from "vitest";
import { count, day, decimals, moment, parseNumber, percent } from "./numbers";

test("numbers can be typed as they are shown", () => {
  expect(decimals(1234.567, 1)).toBe("1234.6");
  expect(decimals(-0.04, 1)).toBe("0.0");
  expect(percent(0.0875, 1)).toBe("8.8 %");
  expect(count(373784)).toBe("373,784");
  for (const typed of ["1234.6", "1234,6", " 1234,6 mm"]) expect(parseNumber(typed)).toBeCloseTo(1234.6);
  expect(parseNumber("-1 200 cd/m²")).toBe(-1200);
  // Nothing that is no number sets a field to 0.
  for (const typed of ["none", "", " ", "-", "1.2.3", "12 or 13"]) expect(parseNumber(typed)).toBeUndefined();
});

test("another language has a comma and other groups", async () => {
  const form = Intl.NumberFormat;
  vi.stubGlobal("Intl", {
    ...Intl,
    NumberFormat: function German(_: unknown, how: object) {
      return new form("de-DE", how);
    },
  });
  vi.resetModules();
  const german = await import("./numbers");
  expect(german.decimals(1234.567, 1)).toBe("1234,6");
  expect(german.count(373784)).toBe("373.784");
  expect(german.parseNumber(german.decimals(0.25, 2))).toBe(0.25);
  vi.unstubAllGlobals();
});

test("moments come in UTC, with or without saying so", () => {
  const plain = "2026-03-01T12:30:00";
  expect(moment(plain)).toBe(moment(`${plain}Z`));
  expect(moment(`${plain}+02:00`)).toBe(moment("2026-03-01T10:30:00"));
  expect(day(plain)).toBe(new Date(`${plain}Z`).toLocaleDateString());
});
