import type { Appearance, Edit, Standing } from "../../api/client";
import * as t from "../../words/texts/schedules/appearances/uses";

export interface Use {
  appearance: Appearance;
  /** Parts that show it, as a whole or on faces. */
  uids: string[];
  /** Parts to which it was given but where something lies over it. */
  beneath: string[];
  /** In the review, so that it can be changed, replaced or removed. */
  own: boolean;
}

/** Every appearance that is worn or kept, the most worn first. */
export function usesOf(standing: Standing): Use[] {
  const uses = new Map<string, Use>();
  const use = (id: string) => {
    const known = uses.get(id);
    if (known) return known;
    const own = standing.scene.appearances?.[id] !== undefined;
    const made: Use = { appearance: standing.appearances[id]!, uids: [], beneath: [], own };
    uses.set(id, made);
    return made;
  };
  for (const id of Object.keys(standing.scene.appearances)) use(id);
  for (const [uid, worn] of Object.entries(standing.worn)) {
    const shown = new Set([worn.appearance, ...Object.values(worn.faces)]);
    for (const id of shown) use(id).uids.push(uid);
    for (const layer of worn.layers)
      if (layer.key && !shown.has(layer.appearance) && !use(layer.appearance).beneath.includes(uid))
        use(layer.appearance).beneath.push(uid);
  }
  return [...uses.values()].sort((a, b) => b.uids.length - a.uids.length);
}

const BY_NOBODY = new Set(["from CAD", "nothing yet"]);

/** Parts that nobody gave anything, in the order of the structure. */
export function untouchedOf(standing: Standing): string[] {
  return Object.entries(standing.worn)
    .filter(([uid, { why }]) => BY_NOBODY.has(why) && standing.scene.states[uid] !== "suppressed")
    .map(([uid]) => uid);
}

/** Own appearances that nothing in any look, rule or colour from CAD uses. */
export function unusedOf(standing: Standing): string[] {
  const { looks = {}, imported = {}, appearances = {} } = standing.scene;
  const used = new Set<string | null>(Object.values(imported));
  for (const look of Object.values(looks)) {
    for (const id of Object.values(look.assignments)) used.add(id);
    for (const rule of look.rules) used.add(rule.appearance);
  }
  return Object.keys(appearances).filter((id) => !used.has(id));
}

/** What an appearance is called in lists. */
export function nameOf(appearance: Appearance): string {
  if (appearance.family === "from CAD") return t.cadColour;
  return appearance.family === "neutral" ? t.noAppearanceYet : appearance.name;
}

type LooksEdit = Extract<Edit, { kind: "set_looks" }>;

/** Changes looks, or which one is shown; what is not named stays. */
export function looksEdit(change: Partial<LooksEdit>): Edit {
  return { kind: "set_looks", looks: {}, show: null, imported: null, define: {}, ...change };
}
