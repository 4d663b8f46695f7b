import { BoxGeometry, BufferGeometry, type Mesh, MeshPhysicalMaterial } from "three";
import { beforeEach, expect, test, vi } from "vitest";
import type { Appearance, Model, Shaded, Standing } from "../api/client";
import type { PartMesh } from "./meshblock";
import { type Change, Parts } from "./parts";

/** Meshes that were asked for, each once, as the real one does. */
const { asked, waiting } = vi.hoisted(() => ({
  asked: new Map<string, Promise<unknown>>(),
  waiting: new Map<string, (mesh: unknown) => void>(),
}));
vi.mock("./meshblock", () => ({
  loadMesh: (key: string) => {
    if (!asked.has(key)) asked.set(key, new Promise((done) => waiting.set(key, done)));
    return asked.get(key);
  },
}));

vi.mock("./materials", () => ({
  toMaterial: (_: Appearance, { clear }: Shaded) => new MeshPhysicalMaterial({ transparent: clear }),
}));

const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

function meshOf(): PartMesh {
  const faceRanges = Uint32Array.from({ length: 12 }, (_, k) => (k % 2 ? 2 : k));
  return { surface: new BoxGeometry(), creases: new BufferGeometry(), faceRanges, triangles: 12, bytes: 1 };
}

function modelOf(mesh: string, uids: string[]): Model {
  const nodes = uids.map((uid) => ({ uid, model: "model-1", definition: "box", world: IDENTITY }));
  return { nodes, definitions: { box: { mesh, triangles: 12 } } } as unknown as Model;
}

const look = (id: string) => ({ id, params: {}, textures: [] }) as unknown as Appearance;

const shown = new WeakMap<Appearance, Shaded>();

/** An appearance that an edit leaves alone is shown by the same object. */
function shownOf(of: Appearance): Shaded {
  if (!shown.has(of)) shown.set(of, { clear: of.params.transmission_weight === 1 } as Shaded);
  return shown.get(of)!;
}

function standingOf(worn: Standing["worn"], appearances: Record<string, Appearance>): Standing {
  const shaded = Object.fromEntries(Object.values(appearances).map((one) => [one.id, shownOf(one)]));
  return { worn, appearances, shaded, scene: { states: {} }, floor: 0 } as unknown as Standing;
}

function wears(appearance: string, faces: Record<string, string> = {}): Standing["worn"][string] {
  return { appearance, faces, laid: null } as unknown as Standing["worn"][string];
}

let changes: Change[];
let parts: Parts;
const materialOf = (uid: string) => parts.by.get(uid)!.mesh.material as Mesh["material"];

beforeEach(() => {
  asked.clear();
  changes = [];
  parts = new Parts((change) => changes.push(change));
});

async function loaded(mesh: string, uids: string[]) {
  const done = parts.load(modelOf(mesh, uids));
  waiting.get(mesh)!(meshOf());
  await done;
}

test("an arrangement that comes late puts nothing back", async () => {
  const old = parts.load(modelOf("old", ["a", "b"]));
  const now = parts.load(modelOf("new", ["a"]));
  waiting.get("new")!(meshOf());
  await now;
  waiting.get("old")!(meshOf());
  await old;
  expect([...parts.by.keys()]).toEqual(["a"]);
  expect(parts.by.get("a")!.key).toBe("new");
});

test("geometry of coloured faces is freed when they are given something else, and when their part goes", async () => {
  await loaded("box", ["a", "b"]);
  const known = { red: look("red"), blue: look("blue") };
  const b = wears("red", { 2: "blue" });
  parts.dress(standingOf({ a: wears("red", { 1: "blue" }), b }, known), {});
  const freed: string[] = [];
  for (const uid of ["a", "b"])
    parts.by.get(uid)!.ownGeometry!.addEventListener("dispose", () => freed.push(uid));
  parts.dress(standingOf({ a: wears("red"), b }, known), {});
  expect(freed).toEqual(["a"]);
  expect(Array.isArray(materialOf("a"))).toBe(false);
  await loaded("box", ["a"]);
  expect(freed).toEqual(["a", "b"]);
});

test("what an edit does not touch keeps its material, and what shows through changes what hides what", async () => {
  await loaded("box", ["a", "b"]);
  const worn = { a: wears("red"), b: wears("blue") };
  const known = { red: look("red"), blue: look("blue") };
  parts.dress(standingOf(worn, known), {});
  const before = materialOf("a");
  const clear = { ...look("blue"), params: { transmission_weight: 1 } } as unknown as Appearance;
  parts.dress(standingOf(worn, { ...known, blue: clear }), {});
  expect(materialOf("a")).toBe(before);
  expect((materialOf("b") as MeshPhysicalMaterial).transparent).toBe(true);
  expect(changes.slice(-2)).toEqual(["shown", "hiding"]);
  parts.dress(standingOf({ ...worn, a: wears("red") }, { ...known, blue: clear }), {});
  expect(changes.at(-1)).toBe("worn");
});
