import { Vector3 } from "three";
import type { Camera } from "../api/client";
import { FILM_WIDTH } from "../api/generated/facts";
import * as t from "../words/texts/state/camera";

/** Where the desk looks from: a shot's camera, or one on the way between shots. */
export interface View {
  position: Vector3;
  target: Vector3;
  focal: number;
  parallel: boolean;
  /** Aperture, focus, shift and the like: they come with the shot and stay while looking around. */
  optics?: Optics;
}

type OpticsName = "f_number" | "focus_distance" | "blades" | "shift" | "roll" | "sensor" | "near";
export type Optics = Required<Pick<Camera, OpticsName>>;
const PLAIN: Optics = {
  f_number: null,
  focus_distance: null,
  blades: 0,
  shift: [0, 0],
  roll: 0,
  sensor: FILM_WIDTH,
  near: null,
};

export function opticsOf(camera: Camera): Optics {
  const given = Object.keys(PLAIN).map((name) => [
    name,
    camera[name as OpticsName] ?? PLAIN[name as OpticsName],
  ]);
  return Object.fromEntries(given) as Optics;
}

export function viewOf(camera: Camera): View {
  return {
    position: new Vector3(...camera.position),
    target: new Vector3(...camera.target),
    focal: camera.focal_length ?? 85,
    parallel: camera.parallel ?? false,
    optics: opticsOf(camera),
  };
}

export function cameraOf(view: View): Camera {
  const round = (v: Vector3): [number, number, number] => [+v.x.toFixed(4), +v.y.toFixed(4), +v.z.toFixed(4)];
  return {
    position: round(view.position),
    target: round(view.target),
    focal_length: view.focal,
    parallel: view.parallel,
    ...(view.optics ?? PLAIN),
  };
}

export function sameView(view: View, camera: Camera): boolean {
  const other = viewOf(camera);
  const near = other.position.distanceTo(other.target) * 1e-4;
  return (
    view.position.distanceTo(other.position) < near &&
    view.target.distanceTo(other.target) < near &&
    Math.abs(view.focal - other.focal) < 0.01 &&
    view.parallel === other.parallel &&
    JSON.stringify(view.optics ?? PLAIN) === JSON.stringify(other.optics)
  );
}

/** The six principal views, as directions from the product to the viewer (front is -y, up is z). */
export const SIX_VIEWS = {
  front: new Vector3(0, -1, 0),
  back: new Vector3(0, 1, 0),
  left: new Vector3(-1, 0, 0),
  right: new Vector3(1, 0, 0),
  top: new Vector3(0, 0, 1),
  under: new Vector3(0, 0, -1),
};
export type SixView = keyof typeof SIX_VIEWS;

const STEEPEST = 0.9999;

/** Turn about the target: yaw about the vertical, pitch up to straight above or below. Radians. */
export function turned(view: View, yaw: number, pitch: number): View {
  const arm = view.position.clone().sub(view.target);
  const length = arm.length();
  const azimuth = Math.atan2(arm.x, -arm.y) + yaw;
  const limit = Math.asin(STEEPEST);
  const elevation = Math.min(limit, Math.max(-limit, Math.asin(arm.z / length) + pitch));
  const out = new Vector3(
    Math.sin(azimuth) * Math.cos(elevation),
    -Math.cos(azimuth) * Math.cos(elevation),
    Math.sin(elevation),
  );
  return { ...view, position: view.target.clone().addScaledVector(out, length) };
}

/** Look along a direction, keeping target and distance. */
export function alongDirection(view: View, direction: Vector3): View {
  const length = view.position.distanceTo(view.target);
  const d = direction.clone();
  // Straight up or down has no azimuth: a hair off keeps the front at the bottom of the picture.
  if (Math.abs(d.z) > STEEPEST)
    d.set(0, -Math.sqrt(1 - STEEPEST ** 2), Math.sign(d.z) * STEEPEST).normalize();
  return { ...view, position: view.target.clone().addScaledVector(d, length) };
}

/** Between front and top, front and side at the same angle: how machines are drawn in three dimensions. */
export const ISOMETRIC = {
  left: new Vector3(-1, -1, 1).normalize(),
  right: new Vector3(1, -1, 1).normalize(),
};

/** The picture's axes at the target: to the right and up, roll included, and the distance to it. */
export function axes(view: View) {
  const forward = view.target.clone().sub(view.position);
  const distance = forward.length();
  forward.normalize();
  const level = forward
    .clone()
    .cross(new Vector3(0, 0, 1))
    .normalize();
  const steep = level.clone().cross(forward);
  const roll = ((view.optics?.roll ?? 0) * Math.PI) / 180;
  const [cos, sin] = [Math.cos(roll), Math.sin(roll)];
  const right = level.clone().multiplyScalar(cos).addScaledVector(steep, sin);
  const up = steep.clone().multiplyScalar(cos).addScaledVector(level, -sin);
  return { right, up, forward, distance };
}

/** mm across the frame at the depth of a point. */
export function mmAcross(view: View, point: Vector3): number {
  const { forward, distance } = axes(view);
  const depth = view.parallel ? distance : point.clone().sub(view.position).dot(forward);
  return (FILM_WIDTH / view.focal) * depth;
}

/** Shift the view in the picture's plane; shares of the frame's width. */
export function shiftedView(view: View, dx: number, dy: number): View {
  const { right, up, distance } = axes(view);
  const width = (FILM_WIDTH / view.focal) * distance;
  const shift = right.multiplyScalar(-dx * width).addScaledVector(up, dy * width);
  return { ...view, position: view.position.clone().add(shift), target: view.target.clone().add(shift) };
}

/** Scale the distance, holding what lies under the pointer, given in -1..1; a shifted lens shows it off the axis. */
export function zoomed(view: View, factor: number, [x, y]: [number, number], aspect: number): View {
  const { right, up, distance } = axes(view);
  const [sideways, upwards] = view.optics?.shift ?? [0, 0];
  const mm = (distance / view.focal) * (1 - factor);
  const shift = right
    .multiplyScalar(((x * FILM_WIDTH) / 2 + sideways) * mm)
    .addScaledVector(up, ((y * FILM_WIDTH) / 2 / aspect + upwards) * mm);
  const target = view.target.clone().add(shift);
  const arm = view.position.clone().sub(view.target).multiplyScalar(factor);
  return { ...view, target, position: target.clone().add(arm) };
}

/** The camera made level and its lens shifted by as much, so that uprights stay upright in the same frame. */
export function upright(view: View): View | undefined {
  const arm = view.target.clone().sub(view.position);
  const flat = Math.hypot(arm.x, arm.y);
  const optics = view.optics ?? PLAIN;
  const up = optics.shift[1] + (view.focal * arm.z) / Math.max(flat, 1e-9);
  if (view.parallel || flat < 1e-6 || Math.abs(up) > FILM_WIDTH) return undefined;
  const target = new Vector3(view.target.x, view.target.y, view.position.z);
  return { ...view, target, optics: { ...optics, roll: 0, shift: [optics.shift[0], +up.toFixed(3)] } };
}

/** What a view shows of a product whose front is -y: "Front left, from above". */
export function wordsOf(view: View): string {
  const arm = view.position.clone().sub(view.target).normalize();
  if (arm.z > 0.93) return t.fromAbove;
  if (arm.z < -0.93) return t.fromBelow;
  const eighth = Math.round(Math.atan2(arm.x, -arm.y) / (Math.PI / 4));
  const side = [t.back, t.backLeft, t.left, t.frontLeft, t.front, t.frontRight, t.right, t.backRight];
  const words = side[(((eighth + 4) % 8) + 8) % 8]!;
  return arm.z > 0.42 ? t.fromAbove2(words) : arm.z < -0.2 ? t.fromBelow2(words) : words;
}

/** Move so that points fill the frame. `fill` is the share of the frame's width or height. */
export function fitted(view: View, points: Vector3[], aspect: number, fill = 0.82): View {
  if (points.length === 0) return view;
  const { right, up, forward } = axes(view);
  const center = points.reduce((sum, p) => sum.add(p), new Vector3()).divideScalar(points.length);
  const across = FILM_WIDTH / 2 / view.focal;
  let distance = 1;
  for (const p of points) {
    const d = p.clone().sub(center);
    const depth = view.parallel ? 0 : d.dot(forward);
    distance = Math.max(
      distance,
      Math.abs(d.dot(right)) / across / fill - depth,
      (Math.abs(d.dot(up)) * aspect) / across / fill - depth,
    );
  }
  return { ...view, target: center, position: center.clone().addScaledVector(forward, -distance) };
}
