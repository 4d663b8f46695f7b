import { expect, test } from "vitest";
import type { StillLine } from "./client";
import { isFor, type StillStep } from "./stills";

const ALL: StillStep[] = ["first", "pause", "resume", "end", "stop"];
const offered = (state: StillLine["state"], samples_done: number) =>
  ALL.filter((step) => isFor(step, { state, samples_done }));

test("what can be done with a still follows from its state and from what is traced of it", () => {
  expect(offered("queued", 0)).toEqual(["first", "pause", "stop"]);
  expect(offered("queued", 4)).toEqual(["first", "pause", "end", "stop"]);
  expect(offered("running", 4)).toEqual(["pause", "end", "stop"]);
  expect(offered("paused", 4)).toEqual(["first", "resume", "end", "stop"]);
  expect(offered("stopped", 0)).toEqual(["resume"]);
  expect(offered("failed", 4)).toEqual(["resume"]);
  expect(offered("done", 16)).toEqual([]);
});
