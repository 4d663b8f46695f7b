import type { Vector2, WebGLRenderer } from "three";
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

function made(software: boolean, took: number, fit: () => boolean | undefined, side = 600) {
  let ratio = 1;
  const renderer = {
    getPixelRatio: () => ratio,
    setPixelRatio: (value: number) => (ratio = value),
    getSize: (size: Vector2) => size.set(side, side),
  };
  const draw = vi.fn();
  const pace = { free: true, took };
  const rest = new Rest(renderer as unknown as WebGLRenderer, software, pace, fit, draw);
  return { rest, draw, pace, ratio: () => ratio };
}

test("drawn in software, it is smooth once nothing moves, and rough as soon as something does", () => {
  const { rest, draw, ratio } = made(true, 100, () => false);
  rest.moves();
  vi.advanceTimersByTime(200);
  rest.moves();
  vi.advanceTimersByTime(200);
  expect(draw).not.toHaveBeenCalled();
  vi.advanceTimersByTime(100);
  expect(draw).toHaveBeenCalledTimes(1);
  expect(ratio()).toBe(2);
  rest.moves();
  expect(ratio()).toBe(1);
});

test("what takes long to draw smoothly waits until it has rested for long", () => {
  const { rest, draw, ratio } = made(true, 400, () => false);
  rest.moves();
  vi.advanceTimersByTime(1400);
  expect([draw.mock.calls.length, ratio()]).toEqual([0, 1]);
  vi.advanceTimersByTime(200);
  expect([draw.mock.calls.length, ratio()]).toEqual([1, 2]);
});

test("a small picture is smooth while things move, and not drawn again when they rest", () => {
  const { rest, draw, ratio } = made(true, 100, () => false, 150);
  rest.moves();
  expect(ratio()).toBe(2);
  vi.advanceTimersByTime(3000);
  expect([draw.mock.calls.length, ratio()]).toEqual([0, 2]);
});

test("the picture gets no other size while a frame is being drawn", () => {
  const { rest, draw, pace, ratio } = made(true, 100, () => false);
  pace.free = false;
  rest.moves();
  vi.advanceTimersByTime(3000);
  expect([draw.mock.calls.length, ratio()]).toEqual([0, 1]);
  pace.free = true;
  vi.advanceTimersByTime(60);
  expect([draw.mock.calls.length, ratio()]).toEqual([1, 2]);
});

test("with a graphics card it is drawn again only where parts are drawn otherwise", () => {
  for (const [other, times] of [
    [true, 1],
    [false, 0],
    [undefined, 0],
  ] as const) {
    const { rest, draw, ratio } = made(false, 0, () => other);
    rest.later();
    vi.advanceTimersByTime(300);
    expect(draw).toHaveBeenCalledTimes(times);
    expect(ratio()).toBe(1);
  }
});

test("what is gone is not drawn any more", () => {
  const { rest, draw } = made(true, 100, () => true);
  rest.moves();
  rest.dispose();
  vi.advanceTimersByTime(300);
  expect(draw).not.toHaveBeenCalled();
});
