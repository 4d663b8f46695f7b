import { Matrix4, Vector3 } from "three";
import type { Edit, Laying, Model, Standing } from "../api/client";
import { extentOf } from "./moving";

export type LayingKind = Laying["kind"];

/** The laying that all of some parts are in, by id. */
export function layingOf(standing: Standing, uids: Iterable<string>): string | undefined {
  const layings = lookOf(standing).layings;
  const wanted = [...uids];
  return Object.keys(layings).find((id) => wanted.every((uid) => layings[id]!.parts[uid]));
}

export function lookOf(standing: Standing) {
  return standing.scene.looks[standing.scene.look]!;
}

/** Where the frame of a laying is, in the review: told by the first of its parts that is still there. */
export function frameOf(model: Model, laying: Laying): Matrix4 | undefined {
  for (const [uid, numbers] of Object.entries(laying.parts)) {
    const world = worldOf(model, uid);
    if (world) return world.multiply(matrixOf(numbers).invert());
  }
  return undefined;
}

/** Lays the pictures of some parts in one frame. */
export function layingEdit(
  model: Model,
  standing: Standing,
  id: string,
  { kind, radius, frame, uids }: { kind: LayingKind; radius: number; frame: Matrix4; uids: Iterable<string> },
): Edit {
  const back = frame.clone().invert();
  const parts: Laying["parts"] = {};
  for (const uid of uids) {
    const world = worldOf(model, uid);
    if (world) parts[uid] = numbersOf(back.clone().multiply(world));
  }
  const look = standing.scene.look;
  return { kind: "lay_pictures", look, layings: { [id]: { kind, radius, parts } } };
}

/** A frame to begin with: in the middle of some parts; a plane faces the shortest way, an axis runs the longest. */
export function firstFrame(
  model: Model,
  uids: ReadonlySet<string>,
  kind: LayingKind,
): { frame: Matrix4; radius: number } {
  const size = extentOf(model, uids) ?? [1, 1, 1];
  const middle = middleOf(model, uids);
  const order = [0, 1, 2].sort((a, b) => size[a]! - size[b]!);
  const axis = kind === "box" ? 2 : kind === "plane" ? order[0]! : order[2]!;
  const z = new Vector3().setComponent(axis, 1);
  // As far as that goes, up in the review is up in the picture.
  const y = axis === 2 ? new Vector3(0, 1, 0) : new Vector3(0, 0, 1);
  const frame = new Matrix4().makeBasis(y.clone().cross(z), y, z).setPosition(middle);
  const across = [0, 1, 2].filter((k) => k !== axis);
  return { frame, radius: Math.max(0.1, (size[across[0]!]! + size[across[1]!]!) / 4) };
}

function middleOf(model: Model, uids: ReadonlySet<string>): Vector3 {
  const sum = new Vector3();
  const nodes = model.nodes.filter((node) => uids.has(node.uid) && node.definition);
  for (const node of nodes) {
    const [low, high] = model.definitions[node.definition!]!.bounds;
    const center = new Vector3(...low).add(new Vector3(...high)).multiplyScalar(0.5);
    sum.add(center.applyMatrix4(worldOf(model, node.uid)!));
  }
  return sum.divideScalar(Math.max(1, nodes.length));
}

function worldOf(model: Model, uid: string): Matrix4 | undefined {
  const world = model.nodes.find((node) => node.uid === uid)?.world;
  return world ? new Matrix4().set(...(world as Parameters<Matrix4["set"]>)) : undefined;
}

/** 3 x 4, row by row. */
function matrixOf(n: readonly number[]): Matrix4 {
  return new Matrix4().set(...([...n, 0, 0, 0, 1] as Parameters<Matrix4["set"]>));
}

function numbersOf(matrix: Matrix4): number[] {
  return matrix
    .clone()
    .transpose()
    .elements.slice(0, 12)
    .map((value) => +value.toFixed(9));
}
