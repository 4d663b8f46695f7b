import { BufferGeometry, Float32BufferAttribute, type Matrix4, Vector3 } from "three";
import type { Decal } from "../api/client";
import type { PartMesh } from "./meshblock";

type Sheet = NonNullable<Decal["sheet"]>;

/** Where a point of the sheet lies on a decal that follows its face: shares of its width and height from its middle. */
function placeOn(decal: Decal, sheet: Sheet, u: number, v: number): [number, number] {
  const turn = (sheet.along * Math.PI) / 180;
  const side = sheet.flipped ? -1 : 1;
  const [du, dv] = [u - sheet.at[0], v - sheet.at[1]];
  const x = (du * Math.cos(turn) + dv * Math.sin(turn)) / sheet.stretch[0];
  const y = (side * (dv * Math.cos(turn) - du * Math.sin(turn))) / sheet.stretch[1];
  const by = (decal.turn * Math.PI) / 180;
  return [
    (x * Math.cos(by) + y * Math.sin(by)) / decal.width,
    (y * Math.cos(by) - x * Math.sin(by)) / decal.height,
  ];
}

/** How often a face that closes up has to be gone round, from a point of its sheet to where it is nearest to a decal. */
function turnsTo({ at, period }: Sheet, u: number, v: number): number {
  if (!period) return 0;
  const [x, y] = period;
  return Math.round(((at[0] - u) * x + (at[1] - v) * y) / (x * x + y * y));
}

/** The triangles of a face that a decal lies on that follows it, placed by a matrix; the mesh has its faces unrolled. */
export function cutSheet(
  decal: Decal,
  face: number,
  matrix: Matrix4,
  { surface, faceRanges }: PartMesh,
): BufferGeometry {
  const sheet = decal.sheet!;
  const index = surface.getIndex()!;
  const [at, normal, uv] = ["position", "normal", "uv"].map((name) => surface.getAttribute(name));
  const places: number[] = [];
  const normals: number[] = [];
  const uvs: number[] = [];
  const first = 3 * faceRanges[2 * face]!;
  for (let k = first; k < first + 3 * faceRanges[2 * face + 1]!; k += 3) {
    const corners = [0, 1, 2].map((one) => index.getX(k + one));
    const middle = (read: (corner: number) => number) =>
      corners.reduce((sum, corner) => sum + read(corner), 0) / 3;
    const [u, v] = [middle((corner) => uv!.getX(corner)), middle((corner) => uv!.getY(corner))];
    const turns = turnsTo(sheet, u, v);
    const [x, y] = sheet.period ?? [0, 0];
    const laid = corners.map((corner) =>
      placeOn(decal, sheet, uv!.getX(corner) + turns * x, uv!.getY(corner) + turns * y),
    );
    const misses = [0, 1].some(
      (way) => laid.every((one) => one[way]! > 0.5) || laid.every((one) => one[way]! < -0.5),
    );
    if (misses) continue;
    corners.forEach((corner, one) => {
      places.push(...new Vector3().fromBufferAttribute(at!, corner).applyMatrix4(matrix).toArray());
      normals.push(
        ...new Vector3().fromBufferAttribute(normal!, corner).transformDirection(matrix).toArray(),
      );
      uvs.push(laid[one]![0] + 0.5, laid[one]![1] + 0.5);
    });
  }
  const made = new BufferGeometry();
  made.setAttribute("position", new Float32BufferAttribute(places, 3));
  made.setAttribute("normal", new Float32BufferAttribute(normals, 3));
  made.setAttribute("uv", new Float32BufferAttribute(uvs, 2));
  return made;
}

/** A sheet after its decal was shifted by so many mm along its width and height. */
export function shiftedSheet(decal: Decal, x: number, y: number): Sheet | null {
  const { sheet } = decal;
  if (!sheet) return null;
  const by = (decal.turn * Math.PI) / 180;
  const turn = (sheet.along * Math.PI) / 180;
  const [across, up] = [
    (x * Math.cos(by) - y * Math.sin(by)) * sheet.stretch[0],
    (x * Math.sin(by) + y * Math.cos(by)) * sheet.stretch[1] * (sheet.flipped ? -1 : 1),
  ];
  const [u, v] = sheet.at;
  const at: [number, number] = [
    u + across * Math.cos(turn) - up * Math.sin(turn),
    v + across * Math.sin(turn) + up * Math.cos(turn),
  ];
  return { ...sheet, at };
}
