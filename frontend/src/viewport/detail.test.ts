import { BoxGeometry, BufferGeometry, Group, Mesh, MeshBasicMaterial, PerspectiveCamera } from "three";
import { expect, test, vi } from "vitest";
import type { Model } from "../api/client";
import { Detail } from "./detail";
import type { PartMesh } from "./meshblock";
import { hits } from "./picking";
import type { StagedPart } from "./stagedPart";

const FINE = { triangles: 1000 };
const ROUGH = { triangles: 10 };
vi.mock("./meshblock", () => ({
  loadMesh: async (_: string, form = "fine") => (form === "coarse" ? rough : fine),
}));

function meshOf(size: number, { triangles }: { triangles: number }): PartMesh {
  const surface = new BoxGeometry(size, size, size);
  surface.computeBoundingSphere();
  const faceRanges = Uint32Array.from({ length: 12 }, (_, k) => (k % 2 ? 2 : k));
  return { surface, creases: new BufferGeometry(), faceRanges, triangles, bytes: 1 };
}

// The stand-in is larger, so that it can be told what a ray meets.
const [fine, rough] = [meshOf(2, FINE), meshOf(6, ROUGH)];
const steel = new MeshBasicMaterial();

function part(uid: string, x: number): StagedPart {
  const mesh = new Mesh(rough.surface, steel);
  mesh.userData.uid = uid;
  const group = new Group();
  group.matrixAutoUpdate = false;
  group.matrix.makeTranslation(x, 0, 0);
  group.add(mesh);
  group.updateMatrixWorld(true);
  return { uid, key: "box", group, mesh, source: rough } as unknown as StagedPart;
}

test("what looks small, and what is beyond the budget, is drawn as a stand-in and picked as it is", async () => {
  const parts = new Map(["a", "b", "c", "d"].map((uid, k) => [uid, part(uid, 20 * k)]));
  const model = { nodes: [{ definition: "box" }], definitions: { box: { triangles: 2_000_000 } } };
  const detail = new Detail(model as unknown as Model);
  await detail.refine(parts, (done) => {
    done.mesh.geometry = done.source.surface;
    done.resting = undefined;
  });
  const drawn = () =>
    [...parts.values()].map(({ mesh }) => (mesh.geometry === fine.surface ? "fine" : "rough"));
  expect(drawn()).toEqual(["fine", "fine", "fine", "fine"]);
  const across: Record<string, number> = { a: 50, b: 90, c: 4, d: 70 };
  const looks = ({ uid }: StagedPart) => across[uid]!;
  expect(detail.fit(parts.values(), looks, 2500)).toBe(true);
  expect(drawn()).toEqual(["rough", "fine", "rough", "fine"]);
  expect(detail.fit(parts.values(), looks, 2500)).toBe(false);

  const camera = new PerspectiveCamera(90, 1, 0.1, 1000);
  camera.position.set(0, 0, 10);
  camera.updateMatrixWorld();
  expect(hits(parts.values(), camera, 0, 0, false)[0]!.point.z).toBeCloseTo(1);
  expect(drawn()[0]).toBe("rough");

  parts.get("a")!.worn = steel;
  parts.get("a")!.mesh.material = new MeshBasicMaterial({ opacity: 0.1 });
  expect(detail.fit(parts.values(), () => 100, 10_000)).toBe(true);
  expect(drawn()).toEqual(["fine", "fine", "fine", "fine"]);
  expect(parts.get("a")!.mesh.material).not.toBe(steel);
});
