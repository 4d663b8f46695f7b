import type { Model, Node, PartState, Standing } from "../api/client";
import * as t from "../words/texts/state/rows";
import type { Grouping } from "./deskStore";
import { shapeOf } from "./giving";

export interface Row {
  id: string;
  kind: "group" | "part";
  name: string;
  /** Every part the row stands for. */
  uids: string[];
  depth: number;
  folded?: boolean;
}

interface Branch {
  node: Node;
  children: Branch[];
}

function tree(model: Model): Branch[] {
  const branches = new Map<string, Branch>();
  const roots: Branch[] = [];
  for (const node of model.nodes) {
    const branch = { node, children: [] };
    branches.set(node.uid, branch);
    const parent = node.parent ? branches.get(node.parent) : undefined;
    (parent ? parent.children : roots).push(branch);
  }
  // A file usually has one product around everything: its children are what the schedule is about. Pieces of context
  // and loose parts beside it change nothing in that.
  const around = roots.filter((branch) => branch.children.length > 0);
  return around.length === 1 ? roots.flatMap((root) => (root === around[0] ? root.children : [root])) : roots;
}

function partsBelow(branch: Branch): Node[] {
  return branch.node.definition ? [branch.node] : branch.children.flatMap(partsBelow);
}

/** Ways to gather parts that do not follow the structure: by what they share. */
const SHARED: Partial<Record<Grouping, (node: Node, model: Model, standing: Standing) => string>> = {
  appearance: (node, _, standing) => {
    const worn = standing.worn[node.uid];
    const appearance = worn && standing.appearances[worn.appearance];
    if (!appearance || worn.why === "nothing yet") return t.noAppearanceYet;
    return appearance.family === "from CAD" ? t.cadColours : appearance.name;
  },
  material: (node, model) => model.definitions[node.definition!]!.material ?? t.noMaterialInThe,
  layer: (node) => node.layers.join(", ") || t.noLayer,
};

/** The rows of the schedule. `passed` are the parts that the filter lets through; all of them when it is undefined. */
export function rowsOf(
  model: Model,
  standing: Standing,
  passed: ReadonlySet<string> | undefined,
  grouping: Grouping,
  folded: ReadonlySet<string>,
): Row[] {
  const fits = (node: Node) => passed === undefined || passed.has(node.uid);
  const rows: Row[] = [];
  const parts = (nodes: Node[], depth: number, group: string) => {
    if (grouping === "structure") {
      for (const node of nodes)
        rows.push({ id: node.uid, kind: "part", name: node.name, uids: [node.uid], depth });
      return;
    }
    const same = new Map<string, Row>();
    for (const node of nodes) {
      const shared = grouping === "same shape";
      const key = shared ? `shape/${shapeOf(model, node)}` : `${group}/${node.definition}/${node.name}`;
      const row = same.get(key);
      if (row) {
        row.uids.push(node.uid);
        if (shared && !row.name.split(" · ").includes(node.name)) row.name += ` · ${node.name}`;
      } else same.set(key, { id: key, kind: "part", name: node.name, uids: [node.uid], depth });
    }
    rows.push(...same.values());
  };
  const walk = (branch: Branch, depth: number) => {
    const inside = partsBelow(branch).filter(fits);
    if (inside.length === 0) return;
    const id = branch.node.uid;
    const isFolded = folded.has(id);
    rows.push({
      id,
      kind: "group",
      name: branch.node.name,
      uids: inside.map((n) => n.uid),
      depth,
      folded: isFolded,
    });
    if (isFolded) return;
    if (grouping === "same part") return parts(inside, 0, id);
    for (const child of branch.children) {
      if (child.node.definition) {
        if (fits(child.node)) parts([child.node], depth + 1, id);
      } else walk(child, depth + 1);
    }
  };
  if (grouping === "same shape") {
    parts(
      model.nodes.filter((node) => node.definition && fits(node)),
      0,
      "",
    );
    return rows.sort((a, b) => b.uids.length - a.uids.length);
  }
  const shared = SHARED[grouping];
  if (shared) {
    const groups = new Map<string, Node[]>();
    for (const node of model.nodes) {
      if (!node.definition || !fits(node)) continue;
      const name = shared(node, model, standing);
      groups.set(name, [...(groups.get(name) ?? []), node]);
    }
    for (const [name, inside] of [...groups].sort((a, b) => a[0].localeCompare(b[0]))) {
      const isFolded = folded.has(name);
      rows.push({
        id: name,
        kind: "group",
        name,
        uids: inside.map((n) => n.uid),
        depth: 0,
        folded: isFolded,
      });
      if (!isFolded) parts(inside, 0, name);
    }
    return rows;
  }
  // Parts outside any sub-assembly come first, where they cannot seem to belong to the group above.
  const branches = tree(model);
  parts(
    branches.map((branch) => branch.node).filter((node) => node.definition && fits(node)),
    0,
    "",
  );
  for (const branch of branches) if (!branch.node.definition) walk(branch, 0);
  return rows;
}

/** What a row's parts have in common, for its cells. */
export function summary(row: Row, standing: Standing) {
  const states = new Set(row.uids.map((uid) => standing.scene.states[uid]));
  const appearances = new Set(row.uids.map((uid) => standing.worn[uid]?.appearance ?? ""));
  const reasons = new Set(row.uids.map((uid) => standing.worn[uid]?.why ?? "nothing yet"));
  const state: PartState | "mixed" | "shown" = states.size > 1 ? "mixed" : ([...states][0] ?? "shown");
  const id = appearances.size === 1 ? [...appearances][0] : undefined;
  return {
    state,
    appearance: id === undefined ? undefined : standing.appearances[id],
    why: reasons.size === 1 ? [...reasons][0]! : undefined,
    several: appearances.size,
  };
}

/** "Screw M3 x 8, Screw M4 x 12 and 3 more" */
export function listNames(model: Model, uids: Iterable<string>, most = 3): string {
  const chosen = new Set(uids);
  const names = [...new Set(model.nodes.filter((node) => chosen.has(node.uid)).map((node) => node.name))];
  const shown = names.slice(0, most).join(", ");
  return names.length > most ? t.andMore(shown, names.length - most) : shown;
}

export function countParts(count: number): string {
  return `${count} ${count === 1 ? t.part : t.parts}`;
}
