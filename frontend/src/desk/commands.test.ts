import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Edit, Model, Standing } from "../api/client";
import { clearDesk, useDesk } from "../state/deskStore";
import { partActions } from "../state/partActions";
import { commandsOf } from "./commands";
import { commandFor } from "./keys";
import { tracedSize, viewKeyOf } from "./lamp";

const MODEL = {
  nodes: ["a", "b", "c"].map((uid) => ({ uid, name: uid, parent: null, definition: "d" })),
} as unknown as Model;

const CAMERA = { position: [0, -100, 0], target: [0, 0, 0] };
const SHOTS = {
  "shot-1": { name: "Front", place: 1, camera: CAMERA },
  "shot-2": { name: "Side", place: 0, camera: { ...CAMERA, position: [100, 0, 0] } },
};

function standing(states: Record<string, string> = {}): Standing {
  const worn = {
    a: { appearance: "x", why: "part" },
    b: { appearance: "y", why: "from CAD" },
    c: { appearance: "z", why: "nothing yet" },
  };
  return { scene: { states, shots: SHOTS }, worn } as unknown as Standing;
}

function acting(states: Record<string, string> = {}) {
  const edits: Edit[] = [];
  return { edits, actions: partActions(MODEL, standing(states), (edit) => edits.push(edit)) };
}

const means = () => ({
  model: MODEL,
  edit: vi.fn(),
  standing: standing(),
  actions: acting().actions,
  undo: vi.fn(),
  redo: vi.fn(),
  take: vi.fn(),
  keep: vi.fn(),
  fit: vi.fn(),
  look: vi.fn(),
  shotId: "shot-1",
  lookAlong: vi.fn(),
  faceNormal: vi.fn(),
  showKeys: vi.fn(),
  showBox: vi.fn(),
  showStills: vi.fn(),
  firstCoat: vi.fn(),
  foldLeft: vi.fn(),
  foldRight: vi.fn(),
  pictureAlone: vi.fn(),
});

const press = (key: string, extra: Partial<KeyboardEvent> = {}) =>
  ({
    key,
    code: `Key${key.toUpperCase()}`,
    ctrlKey: false,
    metaKey: false,
    altKey: false,
    shiftKey: false,
    ...extra,
  }) as KeyboardEvent;

beforeEach(clearDesk);

describe("what can be done with parts", () => {
  it("hides what is shown and shows what is hidden, in one edit", () => {
    useDesk.getState().choose(["a", "b"]);
    const { edits, actions } = acting({ a: "hidden" });
    actions.hide();
    expect(edits).toEqual([{ kind: "set_states", states: { b: "hidden" } }]);
    const other = acting({ a: "hidden", b: "hidden" });
    other.actions.hide();
    expect(other.edits).toEqual([{ kind: "set_states", states: { a: null, b: null } }]);
  });
  it("shows only what is chosen and leaves suppressed parts alone", () => {
    useDesk.getState().choose(["a"]);
    const { edits, actions } = acting({ c: "suppressed" });
    actions.only();
    expect(edits).toEqual([{ kind: "set_states", states: { b: "hidden" } }]);
  });
  it("sends nothing when nothing would change", () => {
    const { edits, actions } = acting();
    actions.hide();
    actions.only();
    actions.showHidden();
    actions.set(["a"], null);
    expect(edits).toEqual([]);
  });
});

describe("keys", () => {
  it("find their command, and only with the right modifiers", () => {
    const m = means();
    const commands = commandsOf(m);
    commandFor(commands, press("z", { ctrlKey: true }))?.run();
    commandFor(commands, press("Z", { ctrlKey: true, shiftKey: true }))?.run();
    commandFor(commands, press("f", { altKey: true }))?.run();
    commandFor(commands, press("?", { shiftKey: true, code: "Slash" }))?.run();
    expect(m.undo).toHaveBeenCalledOnce();
    expect(m.redo).toHaveBeenCalledOnce();
    expect(m.look).toHaveBeenCalledWith("front");
    expect(m.showKeys).toHaveBeenCalledOnce();
    expect(commandFor(commands, press("z"))).toBeUndefined();
    expect(commandFor(commands, press("j"))).toBeUndefined();
  });
  it("are never given twice", () => {
    const keys = commandsOf(means()).flatMap((command) => command.keys ?? []);
    expect(new Set(keys).size).toBe(keys.length);
  });
  it("choose what was given nothing yet, and the others", () => {
    const commands = commandsOf(means());
    commandFor(commands, press("n"))?.run();
    expect([...useDesk.getState().chosen]).toEqual(["b", "c"]);
    commandFor(commands, press("A", { shiftKey: true }))?.run();
    expect([...useDesk.getState().chosen]).toEqual(["a"]);
  });
  it("switch the lamp, and pause it only while it is on", () => {
    const commands = commandsOf(means());
    commandFor(commands, press("g"))?.run();
    expect(useDesk.getState().lampPaused).toBe(false);
    commandFor(commands, press("l"))?.run();
    commandFor(commands, press("g"))?.run();
    expect(useDesk.getState()).toMatchObject({ lamp: true, lampPaused: true });
    commandFor(commands, press("l"))?.run();
    expect(useDesk.getState()).toMatchObject({ lamp: false, lampPaused: false });
  });
});

describe("what is traced on the desk", () => {
  it("has the screen's pixels, up to a million", () => {
    expect(tracedSize({ width: 600, height: 450 }, 1)).toEqual({ width: 600, height: 450 });
    const { width, height } = tracedSize({ width: 1600, height: 1200 }, 2);
    expect(width * height).toBeLessThan(1_005_000);
    expect(width / height).toBeCloseTo(4 / 3, 2);
  });
  it("is another picture for another view or size, and for nothing else", () => {
    const camera = { position: [0, -1, 0], target: [0, 0, 0], focal_length: 85, parallel: false };
    const size = { width: 4, height: 3 };
    type Camera = Parameters<typeof viewKeyOf>[0];
    const key = viewKeyOf(camera as Camera, size);
    expect(viewKeyOf({ ...camera } as Camera, { ...size })).toBe(key);
    expect(viewKeyOf({ ...camera, parallel: true } as Camera, size)).not.toBe(key);
    expect(viewKeyOf(camera as Camera, { width: 8, height: 3 })).not.toBe(key);
  });
});
