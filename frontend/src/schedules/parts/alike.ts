import type { Model, Node, Standing } from "../../api/client";
import { shapeOf } from "../../state/giving";
import * as t from "../../words/texts/schedules/parts/alike";

export type Sharing = "definition" | "shape" | "color" | "layer" | "material" | "appearance" | "sub-assembly";

export const ALIKE: { name: Sharing; words: string }[] = [
  { name: "definition", words: t.samePart },
  { name: "shape", words: t.sameShape },
  { name: "appearance", words: t.sameAppearance },
  { name: "color", words: t.sameCadColour },
  { name: "material", words: t.sameMaterial },
  { name: "layer", words: t.sameLayer },
  { name: "sub-assembly", words: t.sameSubAssembly },
];

const shares: Record<Sharing, (node: Node, model: Model, standing: Standing) => string | undefined> = {
  definition: (node) => node.definition ?? undefined,
  shape: (node, model) => (node.definition ? shapeOf(model, node) : undefined),
  color: (node) => node.color ?? undefined,
  layer: (node) => node.layers.join("\n") || undefined,
  material: (node, model) => model.definitions[node.definition!]!.material ?? undefined,
  appearance: (node, _, standing) => standing.worn[node.uid]?.appearance,
  "sub-assembly": (node) => node.parent ?? undefined,
};

/** The parts that share something with any of the chosen ones, those included. */
export function alike(
  what: Sharing,
  model: Model,
  standing: Standing,
  chosen: ReadonlySet<string>,
): string[] {
  const parts = model.nodes.filter((node) => node.definition);
  const wanted = new Set(
    parts.filter((node) => chosen.has(node.uid)).map((node) => shares[what](node, model, standing)),
  );
  wanted.delete(undefined);
  return parts
    .filter((node) => chosen.has(node.uid) || wanted.has(shares[what](node, model, standing)))
    .map((node) => node.uid);
}

/** Of a part's box, mm. */
export function diagonal(model: Model, node: Node): number {
  const [low, high] = model.definitions[node.definition!]!.bounds;
  return Math.hypot(...low.map((value, axis) => high[axis]! - value));
}
