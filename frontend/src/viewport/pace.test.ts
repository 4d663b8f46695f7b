import type { WebGLRenderer } from "three";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Pace } from "./pace";

let signaled = false;
beforeEach(() => {
  vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout", "performance"] });
  vi.stubGlobal("window", { setTimeout });
  vi.stubGlobal("requestAnimationFrame", (draw: () => void) => setTimeout(draw, 16));
  signaled = false;
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

function made(software: boolean) {
  const gl = {
    UNSIGNALED: 0,
    fenceSync: () => ({}),
    flush: () => undefined,
    deleteSync: () => undefined,
    isContextLost: () => false,
    getSyncParameter: () => (signaled ? 1 : 0),
  };
  const renderer = { getContext: () => gl } as unknown as WebGLRenderer;
  return { pace: new Pace(renderer, software), draw: vi.fn() };
}

test("in software a frame is begun only when the one before is done", () => {
  const { pace, draw } = made(true);
  pace.soon(draw);
  vi.advanceTimersByTime(20);
  expect(draw).toHaveBeenCalledTimes(1);
  for (let k = 0; k < 10; k++) pace.soon(draw);
  vi.advanceTimersByTime(400);
  expect([draw.mock.calls.length, pace.free]).toEqual([1, false]);
  signaled = true;
  vi.advanceTimersByTime(15);
  expect(pace.took).toBeGreaterThan(380);
  vi.advanceTimersByTime(20);
  expect(draw).toHaveBeenCalledTimes(2);
});

test("with a graphics card each frame of the browser is drawn", () => {
  const { pace, draw } = made(false);
  for (let k = 0; k < 3; k++) {
    pace.soon(draw);
    vi.advanceTimersByTime(20);
  }
  expect([draw.mock.calls.length, pace.free]).toEqual([3, true]);
});
