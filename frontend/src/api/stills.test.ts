import { expect, test } from "vitest";
import type { StillLine } from "./client";
import { eachInTurn, isFor, type StillStep } from "./stills";

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

test("a still that refuses a step keeps none of the others from it, and the first refusal is told", async () => {
  const asked: string[] = [];
  const step = async (id: string) => {
    asked.push(id);
    if (id !== "a" && id !== "d") throw new Error(`${id} is done`);
  };
  await expect(
    eachInTurn(
      ["a", "b", "c", "d"].map((id) => ({ id })),
      step,
    ),
  ).rejects.toThrow("b is done");
  expect(asked).toEqual(["a", "b", "c", "d"]);
  await expect(eachInTurn([{ id: "a" }], step)).resolves.toBeUndefined();
});
