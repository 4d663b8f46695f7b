import { type Camera, type Matrix4, Ray, type Vector2, Vector3 } from "three";
import type { Decal, Schemas } from "../api/client";
import { axisOf, laidOut, pointOn, shifted, wayOut } from "./decalShape";

/** A corner sizes the decal, its sides held in proportion; the knob above it turns it. */
export type Grip = { kind: "corner"; x: 1 | -1; y: 1 | -1 } | { kind: "turn" };

/** Pixels round a grip in which the pointer has hold of it. */
const REACH = 10;
const LEAST = 0.1;
const MOST = 1e4;
/** Degrees that a turn stops at with Shift held. */
const STEP = 15;

export const CORNERS: readonly Grip[] = [
  { kind: "corner", x: -1, y: -1 },
  { kind: "corner", x: 1, y: -1 },
  { kind: "corner", x: 1, y: 1 },
  { kind: "corner", x: -1, y: 1 },
];

/** Where a grip is, in the part's frame. */
export function gripPoint(decal: Decal, grip: Grip): Vector3 {
  const [w, h] = [decal.width / 2, decal.height / 2];
  if (grip.kind === "corner") return pointOn(decal, grip.x * w, grip.y * h);
  return pointOn(decal, 0, h + 0.25 * Math.max(w, h));
}

/** The grip under a position in -1..1, in a picture of a size in pixels. */
export function gripAt(
  decal: Decal,
  matrix: Matrix4,
  camera: Camera,
  size: Vector2,
  x: number,
  y: number,
): Grip | undefined {
  const away = (point: Vector3) => {
    const at = point.applyMatrix4(matrix).project(camera);
    return Math.hypot(((at.x - x) * size.x) / 2, ((at.y - y) * size.y) / 2);
  };
  // One that is small on the screen must still be moved by its middle.
  const reach = Math.min(REACH, away(pointOn(decal, 0, 0)));
  const grips: Grip[] = [{ kind: "turn" }, ...CORNERS];
  return grips.find((grip) => away(gripPoint(decal, grip)) <= reach);
}

/** Where a ray in the part's frame meets the surface that a decal was laid on, mm along its width and height; beside a
 * cylinder or a cone, where it meets the plane that touches it. */
export function spotOn(decal: Decal, ray: Ray): [number, number] | undefined {
  const out = wayOut(decal);
  const center = new Vector3(...decal.center);
  const hit = onRound(decal, ray);
  if (hit) return laidOut(decal, hit).slice(0, 2) as [number, number];
  const slope = ray.direction.dot(out);
  if (Math.abs(slope) < 1e-6) return undefined;
  const far = center.sub(ray.origin).dot(out) / slope;
  if (far < 0) return undefined;
  const flat = decal.wrap ? { ...decal, wrap: null } : decal;
  return laidOut(flat, ray.at(far, new Vector3())).slice(0, 2) as [number, number];
}

/** Where a ray meets the cylinder or the cone that a decal is wrapped round. */
function onRound(decal: Decal, ray: Ray): Vector3 | undefined {
  const around = axisOf(decal);
  if (!around) return undefined;
  const { foot, axis } = around;
  const { radius, taper } = decal.wrap!;
  const rise = Math.tan((taper * Math.PI) / 180);
  const start = ray.origin.clone().sub(foot);
  const [startUp, stepUp] = [start.dot(axis), ray.direction.dot(axis)];
  const across = (v: Vector3, up: number) => v.addScaledVector(axis, -up);
  const [d, o] = [across(ray.direction.clone(), stepUp), across(start, startUp)];
  const wide = Math.abs(radius) + rise * startUp;
  const a = d.lengthSq() - (rise * stepUp) ** 2;
  const b = o.dot(d) - rise * stepUp * wide;
  const root = b * b - a * (o.lengthSq() - wide * wide);
  if (Math.abs(a) < 1e-12 || root < 0) return undefined;
  const ways = [-1, 1]
    .map((sign) => (-b + sign * Math.sqrt(root)) / a)
    .filter((far) => far > 0 && wide + rise * stepUp * far > 0)
    .sort((one, other) => one - other);
  // Of a cylinder one sees the near side, of a bore the far one.
  const far = radius > 0 ? ways[0] : ways.at(-1);
  return far === undefined ? undefined : ray.at(far, new Vector3());
}

/** A decal whose corner was pulled to a spot: the corner across stays where it is. */
export function pulled(decal: Decal, { x, y }: { x: 1 | -1; y: 1 | -1 }, spot: [number, number]): Decal {
  const [dx, dy] = [x * decal.width, y * decal.height];
  const along = ((spot[0] + dx / 2) * dx + (spot[1] + dy / 2) * dy) / (dx * dx + dy * dy);
  const least = LEAST / Math.min(decal.width, decal.height);
  const most = MOST / Math.max(decal.width, decal.height);
  const factor = Math.min(most, Math.max(least, along));
  const grown = (factor - 1) / 2;
  const [width, height] = [rounded(decal.width * factor), rounded(decal.height * factor)];
  return { ...decal, ...shifted(decal, grown * dx, grown * dy), width, height };
}

/** A decal turned so that its top points to a spot; by whole steps if `stepped`. */
export function turnedTo(decal: Decal, [x, y]: [number, number], stepped: boolean): Decal {
  const by = (Math.atan2(y, x) * 180) / Math.PI - 90;
  const unit = stepped ? STEP : 1;
  const turn = Math.round((decal.turn + by) / unit) * unit;
  return { ...decal, turn: ((((turn + 180) % 360) + 360) % 360) - 180 };
}

const rounded = (mm: number) => Math.max(LEAST, Math.round(mm * 100) / 100);

export interface Snapped {
  decal: Decal;
  /** The lines it stopped at: which way they are measured, and where, mm from the middle of the decal as it lay. */
  lines: { way: 0 | 1; at: number; what: string }[];
}

/** A decal shifted on its face by so many mm along its unturned width and height, stopping at lines that are nearer
 * than `within` mm. */
export function slid(
  decal: Decal,
  by: [number, number],
  snaps: Schemas["Snaps"] | undefined,
  within: number,
): Snapped {
  const lines: Snapped["lines"] = [];
  const square = decal.turn % 90 === 0;
  const stands = Math.abs(decal.turn % 180) === 90;
  const half = [decal.width / 2, decal.height / 2];
  if (stands) half.reverse();
  const to = by.map((mm, way) => {
    let best: { off: number; at: number; what: string } | undefined;
    for (const line of (way === 0 ? snaps?.across : snaps?.along) ?? []) {
      if (line.of === "side" && !square) continue;
      for (const reach of line.of === "side" ? [-half[way]!, half[way]!] : [0]) {
        const off = line.at - reach - mm;
        if (Math.abs(off) <= within && (!best || Math.abs(off) < Math.abs(best.off)))
          best = { off, at: line.at, what: line.what };
      }
    }
    if (best) lines.push({ way: way as 0 | 1, at: best.at, what: best.what });
    return mm + (best?.off ?? 0);
  });
  const flat = { ...decal, turn: 0 };
  return { decal: { ...decal, ...shifted(flat, to[0]!, to[1]!) }, lines };
}

/** Where a ray lies in a part's frame. */
export function rayIn(matrix: Matrix4, ray: Ray): Ray {
  return new Ray().copy(ray).applyMatrix4(matrix.clone().invert());
}
