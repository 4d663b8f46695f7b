import {
  BufferGeometry,
  Euler,
  Float32BufferAttribute,
  Matrix4,
  Mesh,
  SRGBColorSpace,
  type Texture,
  Vector3,
} from "three";
import { DecalGeometry } from "three/examples/jsm/geometries/DecalGeometry.js";
import type { Decal } from "../api/client";
import { shiftedSheet } from "./decalSheet";
import type { Hit } from "./picking";
import type { StagedPart } from "./stagedPart";
import { boxAround, cornersIn, partOf } from "./trianglesIn";

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
 * or a cone by arc length, as in the core. */
export function laidOut(decal: Decal, point: Vector3): [number, number, number] {
  const { side, up, out } = axesOf(decal);
  const arm = point.clone().sub(new Vector3(...decal.center));
  let [x, y, away] = [arm.dot(side), arm.dot(up), arm.dot(out)];
  if (decal.wrap) {
    const wide = decal.wrap.along === "up";
    const [across, along, off] = wide ? unrolled(decal.wrap, x, y, away) : unrolled(decal.wrap, y, x, away);
    [x, y, away] = wide ? [across, along, off] : [along, across, off];
  }
  return [...byTurn(decal, x, y, true), away];
}

type Wrap = NonNullable<Decal["wrap"]>;

const slopeOf = (wrap: Wrap) => {
  const taper = (wrap.taper * Math.PI) / 180;
  return { sine: Math.sin(taper), cosine: Math.cos(taper), sign: Math.sign(wrap.radius) };
};

/** sin(x) / x. */
const sinc = (x: number) => (Math.abs(x) < 1e-6 ? 1 : Math.sin(x) / x);

/** A point beside a decal, mm across, along the slope and outwards, laid flat; `scene/wrapping.py` has the formulas. */
function unrolled(wrap: Wrap, across: number, along: number, away: number): [number, number, number] {
  const { sine, cosine, sign } = slopeOf(wrap);
  const radius = Math.abs(wrap.radius);
  const toward = radius + along * sine + sign * away * cosine;
  const height = along * cosine - sign * away * sine;
  const angle = Math.atan2(across, toward);
  const further = Math.hypot(across, toward) - radius;
  const gone = height * cosine + further * sine;
  const fan = angle * sine;
  return [
    radius * angle * sinc(fan) + gone * Math.sin(fan),
    gone * Math.cos(fan) - radius * angle * Math.sin(fan / 2) * sinc(fan / 2),
    sign * (further * cosine - height * sine),
  ];
}

/** Where a spot of a wrapped decal lies round its axis (radians), and how far along the slope (mm). */
function rolledUp(wrap: Wrap, across: number, along: number): { angle: number; gone: number } {
  const { sine } = slopeOf(wrap);
  const radius = Math.abs(wrap.radius);
  if (Math.abs(sine) < 1e-6) return { angle: across / radius, gone: along };
  const tip = radius / sine;
  const fan = Math.atan(across / (tip + along));
  return { angle: fan / sine, gone: Math.sign(tip + along) * Math.hypot(across, tip + along) - tip };
}

/** The directions of a wrapped decal where it lies, and round its axis by an angle: outwards from the axis, along the
 * slope, outwards from the surface, and round. */
function turnedBy(decal: Decal, wrap: Wrap, angle: number) {
  const { side, up, out } = axesOf(decal);
  const { sine, cosine, sign } = slopeOf(wrap);
  const [round, slope] = wrap.along === "up" ? [side, up] : [up, side];
  const axis = slope
    .clone()
    .multiplyScalar(cosine)
    .addScaledVector(out, -sign * sine);
  const first = slope
    .clone()
    .multiplyScalar(sine)
    .addScaledVector(out, sign * cosine);
  const mixed = (a: Vector3, b: number, c: Vector3, d: number) =>
    a.clone().multiplyScalar(b).addScaledVector(c, d);
  const radial = mixed(first, Math.cos(angle), round, Math.sin(angle));
  return {
    axis,
    first,
    radial,
    round: mixed(round, Math.cos(angle), first, -Math.sin(angle)),
    slope: mixed(axis, cosine, radial, sine),
    out: mixed(radial, sign * cosine, axis, -sign * sine),
  };
}

/** The axis that a decal is wrapped round, in its part's frame: its point beside the decal's middle, and its direction;
 * undefined for one that lies flat. */
export function axisOf(decal: Decal): { foot: Vector3; axis: Vector3 } | undefined {
  if (!decal.wrap) return undefined;
  const { axis, first } = turnedBy(decal, decal.wrap, 0);
  const foot = new Vector3(...decal.center).addScaledVector(first, -Math.abs(decal.wrap.radius));
  return { foot, axis };
}

/** The point in the part's frame that lies so many mm from a decal's middle along its width and height. */
export function pointOn(decal: Decal, x: number, y: number): Vector3 {
  const { side, up } = axesOf(decal);
  const [across, along] = byTurn(decal, x, y, false);
  const point = new Vector3(...decal.center);
  if (!decal.wrap) return point.addScaledVector(side, across).addScaledVector(up, along);
  const { wrap } = decal;
  const spot = wrap.along === "up" ? rolledUp(wrap, across, along) : rolledUp(wrap, along, across);
  const { sine, cosine } = slopeOf(wrap);
  const { axis, radial } = turnedBy(decal, wrap, spot.angle);
  return axisOf(decal)!
    .foot.addScaledVector(axis, spot.gone * cosine)
    .addScaledVector(radial, Math.abs(wrap.radius) + spot.gone * sine);
}

/** Where a decal lies when it is moved by so many mm along its width and height; round a cylinder or a cone it stays on
 * it. */
export function shifted(
  decal: Decal,
  x: number,
  y: number,
): Pick<Decal, "center" | "right" | "up" | "wrap" | "sheet"> {
  const { wrap } = decal;
  const center = pointOn(decal, x, y).toArray();
  const sheet = shiftedSheet(decal, x, y);
  if (!wrap) return { center, right: decal.right, up: decal.up, wrap, sheet };
  const [across, along] = byTurn(decal, x, y, false);
  const spot = wrap.along === "up" ? rolledUp(wrap, across, along) : rolledUp(wrap, along, across);
  const { slope, out } = turnedBy(decal, wrap, spot.angle);
  const { sine, sign } = slopeOf(wrap);
  const radius = wrap.radius + sign * spot.gone * sine;
  const lies = { center, sheet, wrap: { ...wrap, radius: Math.round(radius * 1e4) / 1e4 } };
  return wrap.along === "up"
    ? { ...lies, right: slope.clone().cross(out).toArray(), up: slope.toArray() }
    : { ...lies, right: slope.toArray(), up: out.clone().cross(slope).toArray() };
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
  const lies = { center: center.toArray(), right: right.toArray(), up: up.toArray() };
  return { ...decal, ...lies, part: hit.uid, sheet: null };
}

/** The triangles of a part, given with its matrix, that a decal may lie on: those in its reach that face its front, in
 * the review's frame, with the picture's coordinates; what is beyond the picture's edge is left to the shader. */
export function cut(decal: Decal, matrix: Matrix4, body: Mesh): BufferGeometry {
  const { side, up, out } = axesOf(decal);
  const middle = new Vector3(...decal.center);
  const radius = Math.abs(decal.wrap?.radius ?? 0);
  const reach = Math.hypot(decal.width, decal.height);
  const size = new Vector3(reach, reach, 2 * decal.depth);
  const around = axisOf(decal);
  if (around) {
    // All round the axis, which lies behind the surface, or before it in a bore.
    middle.copy(around.foot);
    const wide = 2 * (radius + decal.depth);
    if (decal.wrap!.taper) size.setScalar(wide + 2 * reach);
    else size.set(wide, wide, wide).setComponent(decal.wrap!.along === "up" ? 1 : 0, reach);
  }
  const frame = matrix.clone().multiply(new Matrix4().makeBasis(side, up, out).setPosition(middle));
  const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()];
  frame.extractBasis(x, y, z);
  size.multiply(new Vector3(x.length(), y.length(), z.length()));
  const straight = new Matrix4().makeBasis(x.normalize(), y.normalize(), z.normalize());
  const inBody = body.matrixWorld.clone().invert().multiply(straight.clone().copyPosition(frame));
  const near = new Mesh(partOf(body.geometry, cornersIn(body.geometry, boxAround(inBody, size))));
  near.matrixWorld.copy(body.matrixWorld);
  const whole = new DecalGeometry(
    near,
    new Vector3().setFromMatrixPosition(frame),
    new Euler().setFromRotationMatrix(straight),
    size,
  );
  const [at, normal] = (["position", "normal"] as const).map((name) => whole.getAttribute(name));
  const inverse = matrix.clone().invert();
  const places: number[] = [];
  const normals: number[] = [];
  const uvs: number[] = [];
  const turn = 2 * Math.PI * radius;
  for (let corner = 0; corner + 2 < at!.count; corner += 3) {
    const points = [0, 1, 2].map((k) => new Vector3().fromBufferAttribute(at!, corner + k));
    const local = points.map((point) => point.clone().applyMatrix4(inverse));
    const facing = new Vector3().fromBufferAttribute(normal!, corner).transformDirection(inverse);
    if (facing.dot(outwardAt(decal, local[0]!)) <= 0) continue;
    const laid = local.map((point) => laidOut(decal, point));
    if (laid.every(([, , away]) => Math.abs(away) > decal.depth)) continue;
    const axis = decal.wrap?.along === "right" ? 1 : 0;
    // A triangle that crosses the seam behind lies on one side of it; on a fan, on neither.
    const crosses = (one: number[]) => Math.abs(one[axis]! - laid[0]![axis]!) > turn / 2;
    if (decal.wrap?.taper && laid.some(crosses)) continue;
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
  const { wrap } = decal;
  if (!wrap) return out;
  const { first } = turnedBy(decal, wrap, 0);
  const arm = point
    .clone()
    .sub(new Vector3(...decal.center))
    .addScaledVector(first, Math.abs(wrap.radius));
  const round = wrap.along === "up" ? side : up;
  return turnedBy(decal, wrap, Math.atan2(arm.dot(round), arm.dot(first))).out;
}

/** The triangles of some faces of a mesh. */
export function onlyFaces(surface: BufferGeometry, ranges: Uint32Array, faces: number[]): BufferGeometry {
  const index = surface.getIndex()!;
  const left: number[] = [];
  for (const face of faces)
    for (let k = 3 * ranges[2 * face]!; k < 3 * (ranges[2 * face]! + ranges[2 * face + 1]!); k++)
      left.push(index.getX(k));
  return partOf(surface, left);
}

/** The address of a decal's picture, for the shaded picture. */
export const shownPicture = (decal: Decal) => `/api/blobs/${decal.picture}/shown?color=true`;

/** Makes the picture of a decal ready: its colours, and left and right exchanged where it is mirrored. */
export function readied(picture: Texture, { mirrored }: Decal): Texture {
  picture.colorSpace = SRGBColorSpace;
  if (mirrored) picture.matrix.set(-1, 0, 1, 0, 1, 0, 0, 0, 1);
  picture.matrixAutoUpdate = false;
  return picture;
}

/** Leaves out what lies beyond the picture's edge. */
export function onlyWithin(shader: { fragmentShader: string }) {
  shader.fragmentShader = shader.fragmentShader.replace(
    "#include <map_fragment>",
    "if (any(lessThan(vMapUv, vec2(0.0))) || any(greaterThan(vMapUv, vec2(1.0)))) discard;\n#include <map_fragment>",
  );
}
