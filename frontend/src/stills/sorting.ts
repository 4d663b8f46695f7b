import type { Standing, StillLine } from "../api/client";
import { takenIn } from "../api/stills";
import { shotsInOrder } from "../state/shots";
import * as t from "../words/texts/stills/sorting";

export type GroupBy = "shot" | "look" | "lighting";
export type Only = "all" | "starred" | "out of date";

export interface StillGroup {
  key: string;
  name: string;
  stills: StillLine[];
}

/** Whether a still passes the filter: all of its words occur in what is written on it. */
export function passes(standing: Standing, still: StillLine, filter: string, only: Only): boolean {
  if (only === "starred" && !still.starred) return false;
  if (only === "out of date" && (still.current || still.state !== "done")) return false;
  const { look, lighting } = takenIn(standing, still);
  const state = still.state === "done" ? (still.current ? "current" : t.outOfDate) : still.state;
  const text = [still.name, look, lighting, still.note, state, `${still.width} x ${still.height}`]
    .join(" ")
    .toLowerCase();
  return filter
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}

/** Stills in groups: shots as they are listed and then those that were removed, others by name; newest first in each. */
export function grouped(standing: Standing, stills: StillLine[], by: GroupBy): StillGroup[] {
  const { shots } = standing.scene;
  const order = shotsInOrder(shots);
  const groups = new Map<string, StillGroup>();
  for (const still of stills) {
    const taken = takenIn(standing, still);
    const known = by === "shot" ? order.indexOf(still.shot_id) : -1;
    const name =
      by !== "shot"
        ? taken[by] || t.notNoted
        : known < 0
          ? t.removed(still.name)
          : `${known + 1} ${shots[still.shot_id]!.name}`;
    const key = by === "shot" ? still.shot_id : name;
    const group = groups.get(key) ?? { key, name, stills: [] };
    group.stills.push(still);
    groups.set(key, group);
  }
  const place = (group: StillGroup) => {
    const at = order.indexOf(group.key);
    return at < 0 ? order.length : at;
  };
  return [...groups.values()].sort((a, b) =>
    by === "shot" ? place(a) - place(b) : a.name.localeCompare(b.name),
  );
}
