import { Box3, BufferGeometry, type Matrix4, Vector3 } from "three";
import type {} from "three-mesh-bvh";

/** The box around another box that is centred on a frame's origin and lies along its axes. */
export function boxAround(frame: Matrix4, size: Vector3): Box3 {
  const half = size.clone().divideScalar(2);
  return new Box3(half.clone().negate(), half).applyMatrix4(frame);
}

/** The corners of the triangles of a mesh that come near a box, three each: what lies far away costs next to nothing
 * where the mesh has its search tree. */
export function cornersIn(mesh: BufferGeometry, box: Box3): number[] {
  const corners = mesh.getIndex()!.array;
  const places = mesh.getAttribute("position");
  const found: number[] = [];
  const [low, high] = [new Vector3(), new Vector3()];
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()];
  const around = new Box3(low, high);
  const take = (triangle: number) => {
    const three = [0, 1, 2].map((k) => corners[3 * triangle + k]!) as [number, number, number];
    a.fromBufferAttribute(places, three[0]);
    b.fromBufferAttribute(places, three[1]);
    c.fromBufferAttribute(places, three[2]);
    low.copy(a).min(b).min(c);
    high.copy(a).max(b).max(c);
    if (around.intersectsBox(box)) found.push(...three);
  };
  if (mesh.boundsTree)
    mesh.boundsTree.shapecast({
      intersectsBounds: (bounds) => bounds.intersectsBox(box),
      intersectsTriangle: (_, triangle) => {
        take(triangle);
        return false;
      },
    });
  else for (let triangle = 0; 3 * triangle < corners.length; triangle++) take(triangle);
  return found;
}

/** A mesh of some triangles of another one, told by their corners. */
export function partOf(mesh: BufferGeometry, corners: number[]): BufferGeometry {
  const found = new BufferGeometry();
  for (const [name, values] of Object.entries(mesh.attributes)) found.setAttribute(name, values);
  found.setIndex(corners);
  return found;
}
