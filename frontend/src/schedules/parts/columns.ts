import type { Model, Node, Standing } from "../../api/client";
import { length, sizeWords } from "../../words/length";
import * as t from "../../words/texts/schedules/parts/columns";

/** A column that can be shown between a part's name and its appearance. */
export interface Column {
  id: string;
  title: string;
  width: number;
  /** Numbers are set in figures, to the right. */
  number?: boolean;
  of: (node: Node, model: Model, standing: Standing) => string;
}

const extent = (model: Model, node: Node) => {
  const [low, high] = model.definitions[node.definition!]!.bounds;
  return low.map((value, axis) => high[axis]! - value);
};

export const FIXED: Column[] = [
  {
    id: "definition",
    title: t.definition,
    width: 110,
    of: (node, model) => model.definitions[node.definition!]!.name,
  },
  {
    id: "material",
    title: t.material,
    width: 130,
    of: (node, model) => model.definitions[node.definition!]!.material ?? "",
  },
  {
    id: "kind",
    title: t.kind,
    width: 60,
    of: (node, model) => model.definitions[node.definition!]!.kind ?? "",
  },
  { id: "layer", title: t.layer, width: 80, of: (node) => node.layers.join(", ") },
  {
    id: "size",
    title: t.size,
    width: 136,
    number: true,
    of: (node, model) => sizeWords(extent(model, node)),
  },
  {
    id: "volume",
    title: t.volumeCm,
    width: 80,
    number: true,
    of: (node, model) => {
      const volume = model.definitions[node.definition!]!.volume / 1000;
      return volume > 0 ? volume.toPrecision(3) : "open";
    },
  },
  {
    id: "triangles",
    title: t.triangles,
    width: 70,
    number: true,
    of: (node, model) => String(model.definitions[node.definition!]!.triangles),
  },
  {
    id: "deviation",
    title: t.offBy,
    width: 84,
    number: true,
    of: (node, model) => {
      const { deviation } = model.definitions[node.definition!]!;
      return deviation == null ? "" : length(deviation, 3);
    },
  },
  { id: "why", title: t.why, width: 100, of: (node, _, standing) => standing.worn[node.uid]?.why ?? "" },
  {
    id: "state",
    title: t.state,
    width: 80,
    of: (node, _, standing) => standing.scene.states[node.uid] ?? "shown",
  },
];

function propertyColumn(name: string): Column {
  return { id: `property ${name}`, title: name, width: 100, of: (node) => node.properties[name] ?? "" };
}

/** Every column there is: ours, and one for each property that the files give their parts. */
export function columnsOf(model: Model): Column[] {
  const names = new Set(model.nodes.flatMap((node) => Object.keys(node.properties)));
  return [...FIXED, ...[...names].sort().map(propertyColumn)];
}

/** What a row shows in a column: what all its parts agree on. */
export function cell(
  column: Column,
  uids: string[],
  nodes: Map<string, Node>,
  model: Model,
  standing: Standing,
) {
  let found: string | undefined;
  for (const uid of uids) {
    const node = nodes.get(uid);
    if (!node?.definition) continue;
    const text = column.of(node, model, standing);
    if (found !== undefined && found !== text) return t.several;
    found = text;
  }
  return found ?? "";
}
