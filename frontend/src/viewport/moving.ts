import { Box3, Matrix4, Vector3 } from "three";
import type { Model, Node, Standing } from "../api/client";
import { placementMatrix } from "./placement";

export interface Movable {
  uid: string;
  name: string;
  /** The model it belongs to. */
  model: string;
  /** Middle of it where it lies now, in the review's frame. */
  middle: Vector3;
}

/** The node that a choice of parts amounts to: a part, or the sub-assembly of which all parts are chosen. */
export function nodeToMove(model: Model, chosen: ReadonlySet<string>): Movable | undefined {
  if (chosen.size === 0) return undefined;
  const parts = model.nodes.filter((node) => chosen.has(node.uid) && node.definition);
  if (parts.length === 1) return movable(model, parts[0]!, parts);
  const by = new Map(model.nodes.map((node) => [node.uid, node]));
  const counts = new Map<string, number>();
  for (const part of model.nodes)
    if (part.definition)
      for (let up = part.parent; up; up = by.get(up)?.parent ?? null)
        counts.set(up, (counts.get(up) ?? 0) + 1);
  const chosenCounts = new Map<string, number>();
  for (const part of parts)
    for (let up = part.parent; up; up = by.get(up)?.parent ?? null)
      chosenCounts.set(up, (chosenCounts.get(up) ?? 0) + 1);
  // Parents stand before children: the first full one is the outermost, the last the innermost.
  const whole = model.nodes.filter(
    (node) => chosenCounts.get(node.uid) === parts.length && counts.get(node.uid) === parts.length,
  );
  const innermost = whole.at(-1);
  return innermost && movable(model, innermost, parts);
}

/** Of the box around some parts where they lie, mm. */
export function extentOf(model: Model, uids: ReadonlySet<string>): [number, number, number] | undefined {
  const parts = model.nodes.filter((node) => uids.has(node.uid) && node.definition);
  if (parts.length === 0) return undefined;
  const size = boxOf(model, parts).getSize(new Vector3());
  return [size.x, size.y, size.z];
}

function boxOf(model: Model, parts: Node[]): Box3 {
  const box = new Box3();
  for (const part of parts) {
    const [low, high] = model.definitions[part.definition!]!.bounds;
    const own = new Box3(new Vector3(...low), new Vector3(...high));
    box.union(own.applyMatrix4(new Matrix4().set(...(part.world as Parameters<Matrix4["set"]>))));
  }
  return box;
}

function movable(model: Model, node: Node, parts: Node[]): Movable {
  return {
    uid: node.uid,
    name: node.name,
    model: node.model,
    middle: boxOf(model, parts).getCenter(new Vector3()),
  };
}

/** What a node lies in, from the review's frame inwards: the model's placement and the moves of what is around it. */
export function frameAround(model: Model, standing: Standing, target: Movable): Matrix4 {
  const frame = placementMatrix(standing.scene.models[target.model]!.placement);
  const by = new Map(model.nodes.map((node) => [node.uid, node]));
  const around: Matrix4[] = [];
  for (let up = by.get(target.uid)?.parent; up; up = by.get(up)?.parent) {
    const move = standing.scene.moves?.[up];
    if (move) around.unshift(placementMatrix(move));
  }
  for (const move of around) frame.multiply(move);
  return frame;
}

/** What it turns about when it has not been turned yet: its middle, in the frame that its move is told in. */
export function pivotOf(model: Model, standing: Standing, target: Movable): [number, number, number] {
  const { x, y, z } = target.middle.clone().applyMatrix4(frameAround(model, standing, target).invert());
  return [+x.toFixed(3), +y.toFixed(3), +z.toFixed(3)];
}
