import { Box3, BufferGeometry, type Matrix4, type Vector3 } from "three";
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
  const places = mesh.getAttribute("position").array;
  const found: number[] = [];
  const low = box.min.toArray();
  const high = box.max.toArray();
  // Bare numbers: a large part without its tree has hundreds of thousands of triangles.
  const take = (triangle: number) => {
    const a = corners[3 * triangle]!;
    const b = corners[3 * triangle + 1]!;
    const c = corners[3 * triangle + 2]!;
    for (let way = 0; way < 3; way++) {
      const p = places[3 * a + way]!;
      const q = places[3 * b + way]!;
      const r = places[3 * c + way]!;
      if (Math.min(p, q, r) > high[way]! || Math.max(p, q, r) < low[way]!) return;
    }
    found.push(a, b, c);
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
