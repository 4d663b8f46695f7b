import { BufferGeometry, Euler, Float32BufferAttribute, Matrix4, type Mesh, Vector3 } from "three";
import { DecalGeometry } from "three/examples/jsm/geometries/DecalGeometry.js";
import type { Decal } from "../api/client";
import type { Hit } from "./picking";
import type { StagedPart } from "./stagedPart";

/** A decal's axes in its part's frame, before it is turned: unit and square. */
function axesOf(decal: Decal): { side: Vector3; up: Vector3; out: Vector3 } {
  const side = new Vector3(...decal.right).normalize();
  const out = side
    .clone()
    .cross(new Vector3(...decal.up))
    .normalize();
  return { side, up: out.clone().cross(side), out };
}

/** The way outwards of a decal's middle, in its part's frame. */
export const wayOut = (decal: Decal): Vector3 => axesOf(decal).out;

function byTurn(decal: Decal, x: number, y: number, back: boolean): [number, number] {
  const turn = ((back ? -1 : 1) * decal.turn * Math.PI) / 180;
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  return [x * c - y * s, x * s + y * c];
}

/** mm from a decal's middle along its width, its height and outwards, of a point in the part's frame; round a cylinder
 * by arc length, as in the core. */
export function laidOut(decal: Decal, point: Vector3): [number, number, number] {
  const { side, up, out } = axesOf(decal);
  const arm = point.clone().sub(new Vector3(...decal.center));
  let [x, y, away] = [arm.dot(side), arm.dot(up), arm.dot(out)];
  if (decal.wrap) {
    const { radius, along } = decal.wrap;
    const across = along === "up" ? x : y;
    const toward = Math.sign(radius) * (away + radius);
    const reach = Math.hypot(across, toward);
    const around = Math.abs(radius) * Math.atan2(across, toward);
    away = Math.sign(radius) * (reach - Math.abs(radius));
    if (along === "up") x = around;
    else y = around;
  }
  return [...byTurn(decal, x, y, true), away];
}

/** The point in the part's frame that lies so many mm from a decal's middle along its width and height. */
export function pointOn(decal: Decal, x: number, y: number): Vector3 {
  const { side, up, out } = axesOf(decal);
  const [across, along] = byTurn(decal, x, y, false);
  const point = new Vector3(...decal.center);
  if (!decal.wrap) return point.addScaledVector(side, across).addScaledVector(up, along);
  const { radius } = decal.wrap;
  const [round, axis, way, rest] =
    decal.wrap.along === "up" ? [side, up, across, along] : [up, side, along, across];
  const angle = way / Math.abs(radius);
  point.addScaledVector(axis, rest).addScaledVector(round, Math.abs(radius) * Math.sin(angle));
  return point.addScaledVector(out, radius * (Math.cos(angle) - 1));
}

/** Where a decal lies when it is moved by so many mm along its width and height; round a cylinder it stays on it. */
export function shifted(decal: Decal, x: number, y: number): Pick<Decal, "center" | "right" | "up"> {
  const { side, up, out } = axesOf(decal);
  const center = pointOn(decal, x, y).toArray();
  if (!decal.wrap) return { center, right: decal.right, up: decal.up };
  const { radius, along } = decal.wrap;
  const [across, rest] = byTurn(decal, x, y, false);
  const angle = (along === "up" ? across : rest) / Math.abs(radius);
  const round = (along === "up" ? side : up)
    .multiplyScalar(Math.cos(angle))
    .addScaledVector(out, -Math.sign(radius) * Math.sin(angle));
  const way = round.toArray();
  return along === "up" ? { center, right: way, up: decal.up } : { center, right: decal.right, up: way };
}

const PIECES = 16;

/** The outline of a decal in its part's frame, as a closed line. */
export function outlineOf(decal: Decal): BufferGeometry {
  const [w, h] = [decal.width / 2, decal.height / 2];
  const corners: [number, number][] = [
    [-w, -h],
    [w, -h],
    [w, h],
    [-w, h],
  ];
  const points = corners.flatMap(([x, y], k) => {
    const [nextX, nextY] = corners[(k + 1) % 4]!;
    return Array.from({ length: PIECES }, (_, n) =>
      pointOn(decal, x + ((nextX - x) * n) / PIECES, y + ((nextY - y) * n) / PIECES),
    );
  });
  return new BufferGeometry().setFromPoints(points);
}

/** A decal at another spot, standing as it stood: what the core will say when it is let go. */
export function draggedTo(decal: Decal, from: StagedPart | undefined, to: StagedPart, hit: Hit): Decal {
  const up = new Vector3(...decal.up);
  if (from) up.transformDirection(from.group.matrix);
  const inverse = to.group.matrix.clone().invert();
  const out = hit.normal.clone().transformDirection(inverse);
  up.transformDirection(inverse).addScaledVector(out, -up.dot(out));
  if (up.lengthSq() < 1e-6) up.set(out.y, out.z, out.x).cross(out);
  up.normalize();
  const right = up.clone().cross(out);
  const center = hit.point.clone().applyMatrix4(inverse);
  return { ...decal, part: hit.uid, center: center.toArray(), right: right.toArray(), up: up.toArray() };
}

/** The triangles of a part, given with its matrix, that a decal may lie on: those in its reach that face its front, in
 * the review's frame, with the picture's coordinates; what is beyond the picture's edge is left to the shader. */
export function cut(decal: Decal, matrix: Matrix4, body: Mesh): BufferGeometry {
  const { side, up, out } = axesOf(decal);
  const middle = new Vector3(...decal.center);
  const radius = decal.wrap?.radius ?? 0;
  const reach = Math.hypot(decal.width, decal.height);
  const size = new Vector3(reach, reach, 2 * decal.depth);
  if (decal.wrap) {
    // All round the axis, which lies behind the surface, or before it in a bore.
    middle.addScaledVector(out, -radius);
    const wide = 2 * (Math.abs(radius) + decal.depth);
    size.set(wide, wide, wide).setComponent(decal.wrap.along === "up" ? 1 : 0, reach);
  }
  const frame = matrix.clone().multiply(new Matrix4().makeBasis(side, up, out).setPosition(middle));
  const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()];
  frame.extractBasis(x, y, z);
  size.multiply(new Vector3(x.length(), y.length(), z.length()));
  const straight = new Matrix4().makeBasis(x.normalize(), y.normalize(), z.normalize());
  const whole = new DecalGeometry(
    body,
    new Vector3().setFromMatrixPosition(frame),
    new Euler().setFromRotationMatrix(straight),
    size,
  );
  const [at, normal] = (["position", "normal"] as const).map((name) => whole.getAttribute(name));
  const inverse = matrix.clone().invert();
  const places: number[] = [];
  const normals: number[] = [];
  const uvs: number[] = [];
  const turn = 2 * Math.PI * Math.abs(radius);
  for (let corner = 0; corner + 2 < at!.count; corner += 3) {
    const points = [0, 1, 2].map((k) => new Vector3().fromBufferAttribute(at!, corner + k));
    const local = points.map((point) => point.clone().applyMatrix4(inverse));
    const facing = new Vector3().fromBufferAttribute(normal!, corner).transformDirection(inverse);
    if (facing.dot(outwardAt(decal, local[0]!)) <= 0) continue;
    const laid = local.map((point) => laidOut(decal, point));
    if (laid.every(([, , away]) => Math.abs(away) > decal.depth)) continue;
    const axis = decal.wrap?.along === "right" ? 1 : 0;
    // A triangle that crosses the seam behind lies on one side of it.
    if (decal.wrap && decal.turn === 0)
      for (const one of laid.slice(1)) one[axis]! -= turn * Math.round((one[axis]! - laid[0]![axis]!) / turn);
    points.forEach((point, k) => {
      places.push(...point.toArray());
      normals.push(...new Vector3().fromBufferAttribute(normal!, corner + k).toArray());
      uvs.push(laid[k]![0] / decal.width + 0.5, laid[k]![1] / decal.height + 0.5);
    });
  }
  for (const [name, values, width] of [
    ["position", places, 3],
    ["normal", normals, 3],
    ["uv", uvs, 2],
  ] as const)
    whole.setAttribute(name, new Float32BufferAttribute(values, width));
  return whole;
}

/** The way that is outwards of a decal at a point, in the part's frame. */
function outwardAt(decal: Decal, point: Vector3): Vector3 {
  const { side, up, out } = axesOf(decal);
  if (!decal.wrap) return out;
  const { radius, along } = decal.wrap;
  const arm = point
    .clone()
    .sub(new Vector3(...decal.center))
    .addScaledVector(out, radius);
  const axis = along === "up" ? up : side;
  return arm.addScaledVector(axis, -arm.dot(axis)).multiplyScalar(Math.sign(radius));
}
