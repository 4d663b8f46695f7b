import type { Appearance, Edit, Model, Node, Standing } from "../api/client";
import * as t from "../words/texts/state/giving";

export interface FaceOf {
  uid: string;
  face: number;
}

/** How far an appearance that is given reaches. */
export type Reach =
  | "faces"
  | "parts"
  | "same parts"
  | "same shape"
  | "sub-assembly"
  | "model"
  | "same appearance";

export const REACHES: [Reach, string][] = [
  ["faces", t.theseFaces],
  ["parts", t.theseParts],
  ["same parts", t.allSameParts],
  ["same shape", t.allOfTheSame],
  ["sub-assembly", "sub-assembly"],
  ["model", t.wholeModel],
  ["same appearance", t.everythingWithThisAppearance],
];

export interface Target {
  model: Model;
  standing: Standing;
  uids: string[];
  faces: readonly FaceOf[];
}

/** The reaches that mean something for what is chosen. */
export function reachesOf({ model, standing, uids, faces }: Target): Reach[] {
  const nodes = nodesOf(model, uids);
  const found: Reach[] = faces.length > 0 ? ["faces", "parts"] : ["parts"];
  const wanted = new Set(uids);
  const kinds = new Set(nodes.map((node) => node.definition));
  if (model.nodes.some((node) => node.definition && kinds.has(node.definition) && !wanted.has(node.uid)))
    found.push("same parts");
  const shapes = new Set(nodes.filter((node) => node.definition).map((node) => shapeOf(model, node)));
  if (
    model.nodes.some(
      (node) => node.definition && !kinds.has(node.definition) && shapes.has(shapeOf(model, node)),
    )
  )
    found.push("same shape");
  if (nodes.some((node) => node.parent)) found.push("sub-assembly");
  found.push("model");
  const worn = new Set(uids.map((uid) => standing.worn[uid]?.appearance));
  if (Object.entries(standing.worn).some(([uid, { appearance }]) => worn.has(appearance) && !wanted.has(uid)))
    found.push("same appearance");
  return found;
}

/** A part or a face that is chosen: its key as the scene keeps it, what it wears, and why. */
export interface Place {
  key: string;
  uid: string;
  appearance: string;
  why: string;
}

/** The faces that are chosen, where there are any, and the parts otherwise. */
export function placesOf(target: Target): Place[] {
  const { standing, uids, faces } = target;
  if (faces.length === 0)
    return uids.flatMap((uid) => {
      const worn = standing.worn[uid];
      return worn ? [{ key: uid, uid, appearance: worn.appearance, why: worn.why }] : [];
    });
  return faces.flatMap(({ uid, face }) => {
    const worn = standing.worn[uid];
    const [key] = keysOf("faces", { ...target, faces: [{ uid, face }] });
    if (!worn || !key) return [];
    const own = worn.own_faces[face];
    return [{ key, uid, appearance: worn.faces[face] ?? worn.appearance, why: own?.why ?? worn.why }];
  });
}

/** Parts that wear an appearance, all over or on a face. */
export function wearersOf(standing: Standing, appearance: string): string[] {
  return Object.entries(standing.worn)
    .filter(([, worn]) => worn.appearance === appearance || Object.values(worn.faces).includes(appearance))
    .map(([uid]) => uid);
}

/** Where an assignment has to be made, as the scene keeps it. */
export function keysOf(reach: Reach, { model, standing, uids, faces }: Target): string[] {
  const nodes = nodesOf(model, uids);
  switch (reach) {
    case "faces":
      return faces.flatMap(({ uid, face }) => {
        const node = model.nodes.find((one) => one.uid === uid);
        const signature = node?.definition && model.definitions[node.definition]!.faces[face];
        return signature ? [`${uid}#${signature}`] : [];
      });
    case "parts":
      return uids;
    case "same parts": {
      const kinds = new Set(nodes.map((node) => node.definition!));
      // The first part of a kind stands for it, so that giving again replaces what was given.
      return [...kinds].map((kind) => `=${model.nodes.find((node) => node.definition === kind)!.uid}`);
    }
    case "same shape": {
      const shapes = new Set(nodes.map((node) => shapeOf(model, node)));
      const first = new Map<string, string>();
      for (const node of model.nodes)
        if (node.definition && shapes.has(shapeOf(model, node)) && !first.has(node.definition))
          first.set(node.definition, node.uid);
      return [...first.values()].map((uid) => `=${uid}`);
    }
    case "sub-assembly":
      return [...new Set(nodes.map((node) => node.parent ?? node.uid))];
    case "model":
      return [...new Set(nodes.map((node) => node.model))];
    case "same appearance": {
      const worn = new Set(uids.map((uid) => standing.worn[uid]?.appearance));
      return Object.keys(standing.worn).filter((uid) => worn.has(standing.worn[uid]!.appearance));
    }
  }
}

/** The edit that gives an appearance. `these` are parts that keep something nearer, which is taken off them. */
export function givingEdit(
  appearance: Appearance,
  reach: Reach,
  target: Target,
  these: readonly string[] = [],
): Edit {
  const keys = keysOf(reach, target);
  const assignments: Record<string, string | null> = {};
  for (const uid of these) {
    for (const layer of target.standing.worn[uid]?.layers ?? []) {
      if (keys.includes(layer.key)) break;
      if (layer.why === "part" || layer.why === "sub-assembly") assignments[layer.key] = null;
      // What all same parts have stays with the others; this one gets what is given now by hand.
      else if (layer.key) assignments[uid] = appearance.id;
    }
  }
  for (const key of keys) assignments[key] = appearance.id;
  return {
    kind: "assign",
    look: target.standing.scene.look,
    assignments,
    define: { [appearance.id]: appearance },
  };
}

export const newRule = (filter: string, appearance: Appearance) => ({
  id: `rule-${crypto.randomUUID().slice(0, 8)}`,
  filter,
  appearance: appearance.id,
  surface: null,
  on: true,
});

/** The edit that makes what a filter lets through wear an appearance, now and in later revisions: a rule above all
 * others, or the one that the filter has already. */
export function ruleEdit(standing: Standing, filter: string, appearance: Appearance): Edit {
  const { look, looks } = standing.scene;
  const { rules } = looks[look]!;
  const there = rules.some((rule) => rule.filter === filter && rule.surface === null);
  return {
    kind: "set_rules",
    look,
    rules: there
      ? rules.map((rule) =>
          rule.filter === filter && rule.surface === null
            ? { ...rule, appearance: appearance.id, on: true }
            : rule,
        )
      : [newRule(filter, appearance), ...rules],
    define: { [appearance.id]: appearance },
  };
}

/** The definition that stands for all that are shaped like a part. */
export function shapeOf(model: Model, node: Node): string {
  return model.definitions[node.definition!]!.same_shape;
}

/** Other parts whose shape lies in its frame as a part's does: of its definition, or of one that was exported again. */
export function copiesOf(model: Model, uid: string): Node[] {
  const own = model.nodes.find((node) => node.uid === uid);
  if (!own?.definition) return [];
  const shape = shapeOf(model, own);
  // Signatures of faces tell their place, too.
  const facesOf = (key: string) => [...model.definitions[key]!.faces].sort().join();
  const faces = facesOf(own.definition);
  return model.nodes.filter(
    (node) =>
      node.uid !== uid &&
      node.definition &&
      (node.definition === own.definition ||
        (shapeOf(model, node) === shape && facesOf(node.definition) === faces)),
  );
}

function nodesOf(model: Model, uids: string[]) {
  const wanted = new Set(uids);
  return model.nodes.filter((node) => wanted.has(node.uid));
}
