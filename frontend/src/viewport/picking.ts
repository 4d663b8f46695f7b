import { BufferGeometry, type Camera, Mesh, Raycaster, Sphere, Vector2, Vector3 } from "three";
import type {} from "three-mesh-bvh";
import type { FaceOf } from "../state/giving";
import type { StagedPart } from "./stagedPart";

export interface Hit {
  uid: string;
  point: Vector3;
  /** Unit vector, towards the viewer's side. */
  normal: Vector3;
  /** Index of the face within the part. */
  face: number;
}

let accelerated: Mesh["raycast"] | undefined;

/** Fetches what makes rays quick; until it is there, every triangle near a ray is asked. */
export async function quicken() {
  const { acceleratedRaycast, computeBoundsTree, disposeBoundsTree } = await import("three-mesh-bvh");
  BufferGeometry.prototype.computeBoundsTree = computeBoundsTree;
  BufferGeometry.prototype.disposeBoundsTree = disposeBoundsTree;
  Mesh.prototype.raycast = accelerated = acceleratedRaycast;
}

const ball = new Sphere();

/** Whether a ray comes near a part: most of a large assembly needs no search tree. */
function mayHit(ray: Raycaster, part: StagedPart): boolean {
  return ray.ray.intersectsSphere(ballAround(part, ball));
}

/** A ball around a part, in the review's frame. */
export function ballAround({ source: { surface }, group }: StagedPart, found: Sphere): Sphere {
  if (!surface.boundingSphere) surface.computeBoundingSphere();
  return found.copy(surface.boundingSphere!).applyMatrix4(group.matrix);
}

/** What lies under a position given in -1..1, front to back, each part once. */
export function hits(parts: Iterable<StagedPart>, camera: Camera, x: number, y: number, all: boolean): Hit[] {
  const ray = new Raycaster();
  ray.setFromCamera(new Vector2(x, y), camera);
  return along(parts, ray, all);
}

/** The part that stands between two points, by uid; what lies at their very ends does not count. */
export function hitsBetween(parts: Iterable<StagedPart>, from: Vector3, to: Vector3): string | undefined {
  const way = to.clone().sub(from);
  const length = way.length();
  const ray = new Raycaster(from, way.divideScalar(Math.max(length, 1e-9)), length * 2e-3 + 0.05, length);
  return along(parts, ray, false)[0]?.uid;
}

function along(parts: Iterable<StagedPart>, ray: Raycaster, all: boolean): Hit[] {
  ray.firstHitOnly = true;
  const shown = [...parts].filter((part) => part.mesh.visible && mayHit(ray, part));
  // What is picked is the part, not the coarse stand-in that may be drawn for it.
  const drawn = shown.map((part) => part.mesh.geometry);
  for (const { mesh, resting } of shown) if (resting) mesh.geometry = resting.geometry;
  if (Mesh.prototype.raycast === accelerated)
    for (const { mesh } of shown)
      if (!mesh.geometry.boundsTree) mesh.geometry.computeBoundsTree({ indirect: true });
  const by = new Map(shown.map((part) => [part.uid, part]));
  const found = ray.intersectObjects(
    shown.map((part) => part.mesh),
    false,
  );
  shown.forEach((part, k) => {
    part.mesh.geometry = drawn[k]!;
  });
  return (all ? found : found.slice(0, 1)).map((hit) => {
    const uid = (hit.object as Mesh).userData.uid as string;
    const normal = (hit.normal ?? hit.face!.normal).clone().transformDirection(hit.object.matrixWorld);
    if (normal.dot(ray.ray.direction) > 0) normal.negate();
    return {
      uid,
      point: hit.point,
      normal,
      face: faceOf(by.get(uid)!.source.faceRanges, hit.faceIndex ?? 0),
    };
  });
}

/** The face that a triangle belongs to; ranges are first triangle and count. */
export function faceOf(ranges: Uint32Array, triangle: number): number {
  let [low, high] = [0, ranges.length / 2 - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (ranges[2 * middle]! <= triangle) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** Outward normal of a face, averaged over its area, in the review's frame; none of a part that is not there. */
export function faceNormal(parts: ReadonlyMap<string, StagedPart>, face?: FaceOf): Vector3 | undefined {
  const part = face && parts.get(face.uid);
  if (!part) return undefined;
  const { surface, faceRanges } = part.source;
  const [place, index] = [surface.getAttribute("position"), surface.getIndex()!];
  const [first, count] = [faceRanges[2 * face.face]!, faceRanges[2 * face.face + 1]!];
  const corner = (at: number) => new Vector3().fromBufferAttribute(place, index.getX(at));
  const sum = new Vector3();
  for (let triangle = first; triangle < first + count; triangle++) {
    const [a, b, c] = [corner(3 * triangle), corner(3 * triangle + 1), corner(3 * triangle + 2)];
    sum.add(b.sub(a).cross(c.sub(a)));
  }
  if (sum.lengthSq() === 0) return undefined;
  return sum.transformDirection(part.group.matrix);
}

/** Corners of the box around a part, in the review's frame. */
export function cornersOf(part: StagedPart): Vector3[] {
  const { surface } = part.source;
  if (!surface.boundingBox) surface.computeBoundingBox();
  const { min, max } = surface.boundingBox!;
  return Array.from({ length: 8 }, (_, k) =>
    new Vector3(k & 1 ? max.x : min.x, k & 2 ? max.y : min.y, k & 4 ? max.z : min.z).applyMatrix4(
      part.group.matrix,
    ),
  );
}
