import type { WebGLRenderer } from "three";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Rest } from "./rest";

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal("window", { devicePixelRatio: 1, setTimeout });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

function made(software: boolean, fit: () => boolean | undefined) {
  let ratio = 1;
  const renderer = { getPixelRatio: () => ratio, setPixelRatio: (value: number) => (ratio = value) };
  const draw = vi.fn();
  const rest = new Rest(renderer as unknown as WebGLRenderer, software, fit, draw);
  return { rest, draw, ratio: () => ratio };
}

test("drawn in software, it is smooth once nothing moves, and rough as soon as something does", () => {
  const { rest, draw, ratio } = made(true, () => false);
  rest.later();
  vi.advanceTimersByTime(200);
  rest.later();
  vi.advanceTimersByTime(200);
  expect(draw).not.toHaveBeenCalled();
  vi.advanceTimersByTime(100);
  expect(draw).toHaveBeenCalledTimes(1);
  expect(ratio()).toBe(2);
  rest.later();
  expect(ratio()).toBe(1);
});

test("with a graphics card it is drawn again only where parts are drawn otherwise", () => {
  for (const [other, times] of [
    [true, 1],
    [false, 0],
    [undefined, 0],
  ] as const) {
    const { rest, draw, ratio } = made(false, () => other);
    rest.later();
    vi.advanceTimersByTime(300);
    expect(draw).toHaveBeenCalledTimes(times);
    expect(ratio()).toBe(1);
  }
});

test("what is gone is not drawn any more", () => {
  const { rest, draw } = made(true, () => true);
  rest.later();
  rest.dispose();
  vi.advanceTimersByTime(300);
  expect(draw).not.toHaveBeenCalled();
});
