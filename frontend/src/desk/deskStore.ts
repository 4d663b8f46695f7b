import { create } from "zustand";
import type { Appearance, Lighting } from "../api/client";
import type { View } from "../viewport/camera";

export type Sheet = "parts" | "lights" | "shots";
export type Grouping = "structure" | "same part";

export type Region = [left: number, top: number, right: number, bottom: number];

/** A traced picture as it came, and the view it was traced from. */
export interface Frame {
  picture: ImageBitmap;
  viewKey: string;
  region?: Region;
  samples: number;
  /** Root mean square error before denoising, over the picture's mean. */
  grain?: number;
  /** What is wrong with the picture, though it could be traced. */
  remark?: string;
}

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
  /** Traced light on the desk. */
  lamp: boolean;
  lampPaused: boolean;
  /** Only this part of the picture is traced: left, top, right, bottom as shares. */
  region?: Region;
  drawingRegion: boolean;
  /** A view that goes on being traced in the corner while the desk shows another. */
  inset?: View;
  frame?: Frame;
  /** Why there is no frame. */
  lampMessage?: string;
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
  lamp: false,
  lampPaused: false,
  region: undefined,
  drawingRegion: false,
  inset: undefined,
  frame: undefined,
  lampMessage: undefined,
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
