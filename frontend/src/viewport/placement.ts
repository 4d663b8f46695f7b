import { Euler, Matrix4, Vector3 } from "three";
import type { Placement } from "../api/client";

export const IN_PLACE: Placement = { shift: [0, 0, 0], turn: [0, 0, 0], pivot: [0, 0, 0] };

/** As the core has it: turned about the pivot (about x, then y, then z, axes at rest), then shifted. */
export function placementMatrix({ shift, turn, pivot }: Placement): Matrix4 {
  const [x, y, z] = turn.map((degrees) => (degrees * Math.PI) / 180) as [number, number, number];
  const about = new Vector3(...pivot);
  return new Matrix4()
    .makeTranslation(about.clone().add(new Vector3(...shift)))
    .multiply(new Matrix4().makeRotationFromEuler(new Euler(x, y, z, "ZYX")))
    .multiply(new Matrix4().makeTranslation(about.negate()));
}

/** The placement about a pivot that has this rigid matrix. */
export function placementOf(matrix: Matrix4, pivot: [number, number, number]): Placement {
  const euler = new Euler().setFromRotationMatrix(matrix, "ZYX");
  const moved = new Vector3(...pivot).applyMatrix4(matrix).sub(new Vector3(...pivot));
  const degrees = (radians: number) => +((radians * 180) / Math.PI).toFixed(4);
  return {
    shift: [+moved.x.toFixed(4), +moved.y.toFixed(4), +moved.z.toFixed(4)],
    turn: [degrees(euler.x), degrees(euler.y), degrees(euler.z)],
    pivot,
  };
}
