import type { Edit, Model, PartState, Standing } from "../api/client";
import { useDesk } from "./deskStore";

export interface PartActions {
  set: (uids: string[], state: PartState | null) => void;
  hide: () => void;
  only: () => void;
  suppress: () => void;
  showHidden: () => void;
}

/** Selects one part after the other, in the order of the structure, of those that are shown. */
export function stepThrough(standing: Standing, by: 1 | -1) {
  const { chosen, choose } = useDesk.getState();
  const shown = Object.keys(standing.worn).filter((uid) => standing.scene.states[uid] === undefined);
  const at = shown.findIndex((uid) => chosen.has(uid));
  const next = at < 0 ? (by > 0 ? 0 : shown.length - 1) : (at + by + shown.length) % shown.length;
  if (shown[next]) choose([shown[next]]);
}

/** What can be done with parts; each is one edit, so one undo takes it back. */
export function partActions(model: Model, standing: Standing, edit: (change: Edit) => void): PartActions {
  const states = standing.scene.states;
  const chosen = () => [...useDesk.getState().chosen];
  const set = (uids: string[], state: PartState | null) => {
    const changing = uids.filter((uid) => (states[uid] ?? null) !== state);
    if (changing.length === 0) return;
    edit({ kind: "set_states", states: Object.fromEntries(changing.map((uid) => [uid, state])) });
  };
  return {
    set,
    hide: () => {
      const uids = chosen().filter((uid) => states[uid] !== "suppressed");
      set(uids, uids.every((uid) => states[uid] === "hidden") ? null : "hidden");
    },
    only: () => {
      const keep = new Set(chosen());
      if (keep.size === 0) return;
      const change: Record<string, PartState | null> = {};
      for (const node of model.nodes) {
        if (!node.definition || states[node.uid] === "suppressed") continue;
        const wanted = keep.has(node.uid) ? null : "hidden";
        if ((states[node.uid] ?? null) !== wanted) change[node.uid] = wanted;
      }
      for (const uid of keep) if (states[uid] === "suppressed") change[uid] = null;
      if (Object.keys(change).length > 0) edit({ kind: "set_states", states: change });
    },
    suppress: () => {
      const uids = chosen();
      set(uids, uids.every((uid) => states[uid] === "suppressed") ? null : "suppressed");
    },
    showHidden: () =>
      set(
        Object.keys(states).filter((uid) => states[uid] === "hidden"),
        null,
      ),
  };
}
