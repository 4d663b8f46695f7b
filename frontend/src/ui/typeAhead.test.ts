import { expect, test } from "vitest";
import { TypeAhead } from "./typeAhead";

const NAMES = ["Case", "Screw M3", "Spring", "Screw M4", "Österbolt"];
const alt = (key: string, timeStamp: number, change = {}) => {
  const letter = /[a-z]/.test(key) ? `Key${key.toUpperCase()}` : "Quote";
  return {
    key,
    code: letter,
    altKey: true,
    shiftKey: true,
    ctrlKey: false,
    metaKey: false,
    timeStamp,
    ...change,
  };
};

test("letters with Alt and Shift go to the row that begins so, the same one again to the next", () => {
  const ahead = new TypeAhead();
  expect(ahead.find(alt("s", 0), NAMES, 0)).toBe(1);
  expect(ahead.find(alt("s", 300), NAMES, 1)).toBe(2);
  expect(ahead.find(alt("s", 600), NAMES, 2)).toBe(3);
  expect(ahead.find(alt("s", 900), NAMES, 3)).toBe(1);
});

test("a word goes on while it is typed, and begins anew after a pause", () => {
  const ahead = new TypeAhead();
  expect(ahead.find(alt("s", 0), NAMES, 0)).toBe(1);
  expect(ahead.find(alt("p", 300), NAMES, 1)).toBe(2);
  expect(ahead.find(alt("c", 2000), NAMES, 2)).toBe(0);
  expect(ahead.find(alt("ö", 4000), NAMES, 0)).toBe(4);
  expect(ahead.find(alt("x", 6000), NAMES, 0)).toBeUndefined();
});

test("letters alone are shortcuts", () => {
  const ahead = new TypeAhead();
  expect(ahead.find(alt("s", 0, { altKey: false }), NAMES, 0)).toBeUndefined();
  expect(ahead.find(alt("s", 0, { shiftKey: false }), NAMES, 0)).toBeUndefined();
  expect(ahead.find(alt("s", 0, { ctrlKey: true }), NAMES, 0)).toBeUndefined();
});
