import { beforeEach, describe, expect, it, vi } from "vitest";
import { clearDesk, useDesk } from "./deskStore";

const desk = () => useDesk.getState();
const faces = () => desk().faces.map(({ uid, face }) => `${uid}${face}`);

beforeEach(() => {
  const kept = new Map<string, string>();
  vi.stubGlobal("localStorage", {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
  });
  clearDesk();
});

describe("what is chosen", () => {
  it("is added to and taken from by a group, all of it or nothing", () => {
    desk().choose(["a"]);
    desk().toggle(["a", "b"]);
    expect([...desk().chosen]).toEqual(["a", "b"]);
    desk().toggle(["a", "b"]);
    expect([...desk().chosen]).toEqual([]);
  });
  it("can be faces, alone or with those chosen already", () => {
    desk().chooseFace({ uid: "a", face: 1 }, false);
    desk().chooseFace({ uid: "b", face: 2 }, true);
    expect(faces()).toEqual(["a1", "b2"]);
    expect([...desk().chosen]).toEqual(["a", "b"]);
    desk().chooseFace({ uid: "a", face: 1 }, true);
    expect(faces()).toEqual(["b2"]);
    expect([...desk().chosen]).toEqual(["b"]);
    desk().chooseFace({ uid: "b", face: 2 }, false);
    expect(faces()).toEqual(["b2"]);
    desk().choose(["c"]);
    expect(faces()).toEqual([]);
  });
});

describe("Escape", () => {
  it("takes one step back at a time", () => {
    desk().chooseFace({ uid: "a", face: 1 }, false);
    useDesk.setState({ decal: "d", pointing: "decal" });
    desk().stepBack();
    expect([desk().pointing, desk().decal]).toEqual([undefined, "d"]);
    desk().stepBack();
    expect([desk().decal, faces()]).toEqual([undefined, ["a1"]]);
    desk().stepBack();
    expect([faces(), [...desk().chosen]]).toEqual([[], ["a"]]);
    desk().stepBack();
    expect([...desk().chosen]).toEqual([]);
  });
});

describe("habits", () => {
  it("outlast the desk, what belongs to a review does not", () => {
    desk().showColumns(["material", "size"]);
    desk().fold("lid");
    expect(desk().folded.has("lid")).toBe(true);
    desk().fold("lid");
    expect(desk().folded.has("lid")).toBe(false);
    useDesk.setState({ lamp: true, filter: "screw", region: [0, 0, 0.5, 0.5] });
    clearDesk();
    expect(desk()).toMatchObject({
      lamp: false,
      filter: "",
      region: undefined,
      columns: ["material", "size"],
    });
  });
  it.each(["no JSON", '{"a":1}', "[1, null]"])("that cannot be read are let go: %s", (text) => {
    localStorage.setItem("usual-lamp-columns", text);
    clearDesk();
    expect(desk().columns).toEqual([]);
  });
});
