import { describe, expect, it } from "vitest";
import { ahead } from "./ahead";
import type { Lamp, Shot, Standing } from "./client";

const shot = { name: "Front", camera: { position: [0, -1, 0], target: [0, 0, 0] } } as unknown as Shot;
const standing = {
  seq: 4,
  appearances: {},
  scene: { shots: { "shot-1": shot }, lightings: { a: { turn: 0, lamps: {} } }, lit_by: "a", models: {} },
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
  it("show a lighting and its lamps at once", () => {
    const lamp = { kind: "panel", name: "Key" } as unknown as Lamp;
    const turned = { ...standing.scene.lightings.a!, turn: 30 };
    const one = ahead(standing, { kind: "set_lighting", id: null, lighting: turned });
    const two = ahead(one, { kind: "set_lamps", id: "a", lamps: { key: lamp } });
    expect(two.scene.lightings.a).toMatchObject({ turn: 30, lamps: { key: lamp } });
    expect(ahead(two, { kind: "set_lamps", id: "a", lamps: { key: null } }).scene.lightings.a!.lamps).toEqual(
      {},
    );
    expect(ahead(two, { kind: "set_lamps", id: "gone", lamps: { key: lamp } })).toBe(two);
  });
  it("leave alone what only the server can work out", () => {
    expect(ahead(standing, { kind: "set_states", states: { a: "hidden" } })).toBe(standing);
    expect(ahead(standing, { kind: "set_shot", id: "gone", shot })).toBe(standing);
  });
});
