import { BoxGeometry, Group, Mesh, MeshBasicMaterial, PerspectiveCamera, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { FloorPlane } from "../state/lighting";
import { Aim } from "./aim";
import type { StagedPart } from "./stagedPart";

/** A cube of 10 mm at a place, as the stage holds parts; a cube of three has two triangles a face. */
function cube(uid: string, x: number, y: number, visible = true): StagedPart {
  const surface = new BoxGeometry(10, 10, 10);
  const mesh = new Mesh(surface, new MeshBasicMaterial());
  mesh.userData.uid = uid;
  mesh.visible = visible;
  const group = new Group();
  group.add(mesh);
  group.position.set(x, y, 5);
  group.updateMatrix();
  group.updateMatrixWorld(true);
  const faceRanges = new Uint32Array([0, 2, 2, 2, 4, 2, 6, 2, 8, 2, 10, 2]);
  return { uid, mesh, group, source: { surface, faceRanges } } as unknown as StagedPart;
}

const camera = new PerspectiveCamera(40, 1, 1, 1000);
camera.up.set(0, 0, 1);
camera.position.set(0, -100, 5);
camera.lookAt(0, 0, 5);
camera.updateMatrixWorld();

const LEVEL: FloorPlane = { up: [0, 0, 1], height: 0 };
const parts = [cube("near", 0, -20), cube("far", 0, 20), cube("hidden", 0, -40, false)];
const seen = { parts: () => new Map(parts.map((part) => [part.uid, part])), floor: () => LEVEL };
const aim = new Aim({ ...seen, camera: () => camera });

describe("what lies under a position", () => {
  it("is the nearest part that is shown, with its face and the way it looks", () => {
    const hit = aim.pick(0, 0)!;
    expect(hit.uid).toBe("near");
    expect(hit.point.distanceTo(new Vector3(0, -25, 5))).toBeCloseTo(0, 6);
    expect(hit.normal.distanceTo(new Vector3(0, -1, 0))).toBeCloseTo(0, 6);
    // Three's box lists its sides as +x, -x, +y, -y, +z, -z.
    expect(hit.face).toBe(3);
    expect(aim.pick(0.9, 0)).toBeUndefined();
  });

  it("is everything, front to back, when that is asked for", () => {
    expect(aim.pickAll(0, 0).map((hit) => hit.uid)).toEqual(["near", "far"]);
  });

  it("may be the floor, which is not met by looking upwards", () => {
    const { point: floor, normal } = aim.pickFloor(0, -0.5)!;
    expect(normal.toArray()).toEqual([0, 0, 1]);
    expect(floor.z).toBeCloseTo(0, 9);
    // 5 mm up, and half of tan 20° down: similar triangles.
    expect(floor.y).toBeCloseTo(-100 + 5 / (0.5 * Math.tan((20 * Math.PI) / 180)), 6);
    expect(aim.pickFloor(0, 0.5)).toBeUndefined();
  });

  it("may be a tilted floor", () => {
    const tilted = new Aim({
      ...seen,
      camera: () => camera,
      floor: () => ({ up: [0, -0.6, 0.8], height: 2 }),
    });
    const { point, normal } = tilted.pickFloor(0, 0.1)!;
    expect(point.dot(normal)).toBeCloseTo(2, 6);
    expect(normal.toArray()).toEqual([0, -0.6, 0.8]);
  });

  it("is nothing before there is a view", () => {
    const blind = new Aim({ ...seen, camera: () => undefined });
    expect([blind.pick(0, 0), blind.ray(0, 0), blind.pickFloor(0, -0.5)]).toEqual([
      undefined,
      undefined,
      undefined,
    ]);
    expect(blind.pickAll(0, 0)).toEqual([]);
  });
});

describe("what stands between two points", () => {
  it("is told, but not what lies at their ends", () => {
    const [before, behind] = [new Vector3(0, -60, 5), new Vector3(0, 60, 5)];
    expect(aim.blocked(before, behind)).toBe("near");
    expect(aim.blocked(new Vector3(0, 0, 5), behind)).toBe("far");
    expect(aim.blocked(new Vector3(0, -25, 5), before)).toBeUndefined();
    expect(aim.blocked(before.setX(30), behind.setX(30))).toBeUndefined();
  });
});

describe("the way a face looks", () => {
  it("is told by its triangles, in the review's frame", () => {
    expect(aim.faceNormal({ uid: "far", face: 0 })!.distanceTo(new Vector3(1, 0, 0))).toBeCloseTo(0, 6);
    expect(aim.faceNormal({ uid: "gone", face: 0 })).toBeUndefined();
    expect(aim.faceNormal()).toBeUndefined();
  });
});
