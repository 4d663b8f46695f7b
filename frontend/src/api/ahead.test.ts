import { describe, expect, it } from "vitest";
import { ahead } from "./ahead";
import type { Shot, Standing } from "./client";

const shot = { name: "Front", camera: { position: [0, -1, 0], target: [0, 0, 0] } } as unknown as Shot;
const standing = {
  seq: 4,
  appearances: {},
  scene: { shots: { "shot-1": shot }, lighting: { turn: 0 }, models: {} },
} as unknown as Standing;

describe("edits on the way", () => {
  it("build on each other before the server has answered", () => {
    const wide = ahead(standing, { kind: "set_shot", id: "shot-1", shot: { ...shot, width: 640 } });
    const both = ahead(wide, {
      kind: "set_shot",
      id: "shot-1",
      shot: { ...wide.scene.shots["shot-1"]!, tone: "filmic" },
    });
    expect(both.scene.shots["shot-1"]).toMatchObject({ width: 640, tone: "filmic" });
    expect(both.seq).toBe(4);
    expect(standing.scene.shots["shot-1"]).toBe(shot);
  });
  it("leave alone what only the server can work out", () => {
    expect(ahead(standing, { kind: "set_states", states: { a: "hidden" } })).toBe(standing);
    expect(ahead(standing, { kind: "set_shot", id: "gone", shot })).toBe(standing);
  });
});
