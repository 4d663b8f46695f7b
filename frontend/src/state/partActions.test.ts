import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Edit, Model, Standing } from "../api/client";
import { clearDesk, useDesk } from "./deskStore";
import { partActions, stepThrough } from "./partActions";

type States = Record<string, "hidden" | "suppressed">;
const model = { nodes: ["a", "b", "c", "d"].map((uid) => ({ uid, definition: uid })) } as unknown as Model;
const standing = (states: States = {}) =>
  ({ worn: { a: {}, b: {}, c: {}, d: {} }, scene: { states } }) as unknown as Standing;
const chosen = () => [...useDesk.getState().chosen];

beforeEach(() => {
  vi.stubGlobal("localStorage", { getItem: () => null, setItem: () => undefined });
  clearDesk();
});

describe("stepping through parts", () => {
  it("goes round, over what is not shown", () => {
    const some = standing({ b: "hidden", d: "suppressed" });
    const steps = [1, 1, 1, -1] as const;
    const seen = steps.map((by) => {
      stepThrough(some, by);
      return chosen()[0];
    });
    expect(seen).toEqual(["a", "c", "a", "c"]);
  });
  it("starts at the end when it goes back, and stays where nothing is shown", () => {
    stepThrough(standing(), -1);
    expect(chosen()).toEqual(["d"]);
    stepThrough(standing({ a: "hidden", b: "hidden", c: "hidden", d: "hidden" }), 1);
    expect(chosen()).toEqual(["d"]);
  });
});

describe("what is done with parts", () => {
  const made = (states: States, pick: string[]) => {
    const edits: Edit[] = [];
    useDesk.getState().choose(pick);
    return { edits, act: partActions(model, standing(states), (edit) => edits.push(edit)) };
  };
  it("hides what is selected, and shows it again once all of it is hidden", () => {
    const first = made({ b: "suppressed" }, ["a", "b"]);
    first.act.hide();
    expect(first.edits).toEqual([{ kind: "set_states", states: { a: "hidden" } }]);
    const again = made({ a: "hidden" }, ["a"]);
    again.act.hide();
    expect(again.edits).toEqual([{ kind: "set_states", states: { a: null } }]);
  });
  it("leaves only what is selected, which comes back if it was suppressed", () => {
    const { act, edits } = made({ a: "suppressed", b: "suppressed", c: "hidden" }, ["a", "c"]);
    act.only();
    expect(edits).toEqual([{ kind: "set_states", states: { a: null, c: null, d: "hidden" } }]);
  });
  it("makes no edit that changes nothing", () => {
    const { act, edits } = made({ a: "hidden" }, []);
    act.only();
    act.set(["a"], "hidden");
    expect(edits).toEqual([]);
  });
});
