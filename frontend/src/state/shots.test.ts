import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Edit, Shot, Standing } from "../api/client";
import { clearDesk, useDesk } from "./deskStore";
import { addShot, copyShot, freeName, goToShot, moveShot, seenIn, shotsInOrder } from "./shots";

const camera = {
  position: [0, -100, 0],
  target: [0, 0, 0],
  focal_length: 85,
  parallel: false,
  shift: [0, 0],
} as unknown as Shot["camera"];
const shot = (name: string, place: number, more: Partial<Shot> = {}) =>
  ({ name, place, camera, hidden: [], locked: false, ...more }) as unknown as Shot;
const shots = { c: shot("Top", 2), a: shot("Front", 0), b: shot("Front 2", 1, { locked: true }) };
const standing = (more: object = {}) => ({ scene: { shots, states: {}, ...more } }) as unknown as Standing;
type SetShots = Extract<Edit, { kind: "set_shots" }>;

const made = (act: (edit: (change: Edit) => void) => void) => {
  const edits: SetShots[] = [];
  act((edit) => edits.push(edit as SetShots));
  return edits;
};

beforeEach(() => {
  vi.stubGlobal("localStorage", { getItem: () => null, setItem: () => undefined });
  clearDesk();
});

describe("the list of shots", () => {
  it("goes by place, whatever order they were made in", () => {
    expect(shotsInOrder(shots)).toEqual(["a", "b", "c"]);
  });
  it("has a name for each of its own", () => {
    expect(freeName(shots, "Side")).toBe("Side");
    expect(freeName(shots, "Front")).toBe("Front 3");
    expect(freeName(shots, "Front 2")).toBe("Front 3");
  });
  it("is put in another order by the places that change alone", () => {
    const [edit] = made((push) => moveShot(standing(), "c", 0, push));
    expect(Object.entries(edit!.shots).map(([id, one]) => [id, one!.place])).toEqual([
      ["c", 0],
      ["a", 1],
      ["b", 2],
    ]);
    const [swap] = made((push) => moveShot(standing(), "b", 9, push));
    expect(Object.keys(swap!.shots)).toEqual(["c", "b"]);
    expect(made((push) => moveShot(standing(), "a", -5, push))).toEqual([]);
  });
});

describe("a further shot", () => {
  it("is the present one seen from elsewhere, comes last and is free", () => {
    goToShot(standing(), "b");
    const view = { ...useDesk.getState().view!, focal: 50 };
    const [edit] = made((push) => addShot(standing(), "b", view, push));
    const [[id, added]] = Object.entries(edit!.shots) as [[string, Shot]];
    expect(Object.keys(shots)).not.toContain(id);
    expect(added.camera.focal_length).toBe(50);
    expect([added.locked, added.place]).toEqual([false, 9999]);
    expect(useDesk.getState().shot).toBe(id);
  });
  it("may be a copy under a name of its own", () => {
    const [edit] = made((push) => copyShot(standing(), "a", push));
    expect(Object.values(edit!.shots)[0]!.name).toBe("Front 3");
  });
  it("is shown as it is kept, without what belonged to the view before", () => {
    useDesk.setState({ shownStill: "s1", region: [0, 0, 0.5, 0.5] });
    goToShot(standing(), "c");
    const { shot: id, shownStill, region, view } = useDesk.getState();
    expect([id, shownStill, region]).toEqual(["c", undefined, undefined]);
    expect(view!.position.y).toBe(-100);
    goToShot(standing(), "gone");
    expect(useDesk.getState().shot).toBe("c");
  });
});

describe("what one shot alone does not show", () => {
  it("is hidden in it, but stays suppressed where it is", () => {
    const states = { q: "suppressed" };
    const own = { ...shots, a: shot("Front", 0, { hidden: ["p", "q"] }) };
    const seen = seenIn(standing({ shots: own, states }), "a");
    expect(seen.scene.states).toEqual({ p: "hidden", q: "suppressed" });
    const same = standing({ shots: own, states });
    expect(seenIn(same, "c")).toBe(same);
  });
});
