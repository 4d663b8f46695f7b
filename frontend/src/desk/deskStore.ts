import { create } from "zustand";
import type { Appearance, Lighting } from "../api/client";
import type { View } from "../viewport/camera";

export type Sheet = "parts" | "lights" | "shots";
export type Grouping = "structure" | "same part";

interface Desk {
  sheet: Sheet;
  filter: string;
  grouping: Grouping;
  folded: ReadonlySet<string>;
  chosen: ReadonlySet<string>;
  hovered?: string;
  view?: View;
  /** A still shown in the mat in place of the shaded picture. */
  shownStill?: string;
  /** Appearances as they would be, while a control is dragged. */
  previews: Record<string, Appearance>;
  lightingPreview: Partial<Lighting>;
  choose: (uids: Iterable<string>) => void;
  toggle: (uids: string[]) => void;
  fold: (id: string) => void;
}

const fresh = {
  sheet: "parts" as Sheet,
  filter: "",
  grouping: "same part" as Grouping,
  folded: new Set<string>(),
  chosen: new Set<string>(),
  hovered: undefined,
  view: undefined,
  shownStill: undefined,
  previews: {},
  lightingPreview: {},
};

/** What the desk shows but the review does not keep. */
export const useDesk = create<Desk>((set) => ({
  ...fresh,
  choose: (uids) => set({ chosen: new Set(uids) }),
  toggle: (uids) =>
    set((state) => {
      const next = new Set(state.chosen);
      const all = uids.every((uid) => next.has(uid));
      for (const uid of uids) all ? next.delete(uid) : next.add(uid);
      return { chosen: next };
    }),
  fold: (id) =>
    set((state) => {
      const next = new Set(state.folded);
      next.delete(id) || next.add(id);
      return { folded: next };
    }),
}));

export function clearDesk() {
  useDesk.setState(fresh);
}
