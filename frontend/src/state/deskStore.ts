import { create } from "zustand";
import type { Appearance, Drawing, Lighting, Section } from "../api/client";
import type { View } from "./camera";
import type { FaceOf, Reach } from "./giving";

export type Sheet = "parts" | "appearances" | "lights" | "shots";
export type Grouping = "structure" | "same part" | "same shape" | "appearance" | "material" | "layer";

export type Region = [left: number, top: number, right: number, bottom: number];

/** A decal that the next click lays down. */
export interface DecalInHand {
  name: string;
  /** Content hash; none where it is drawn when it is laid down. */
  picture?: string;
  /** Width over height. */
  aspect?: number;
  drawing?: Drawing;
  id?: string;
}

/** A picture that is held against the one on the desk. */
export interface Reference {
  name: string;
  url: string;
  /** Beside it, or over it up to a line that can be moved. */
  way: "beside" | "wipe";
}

/** What lies under a point of the page, front to back. */
export interface Behind {
  uids: string[];
  x: number;
  y: number;
}

export type Guides = "none" | "thirds" | "centre" | "safe area";

/** How a still is saved when it is done. */
export interface Save {
  form: "png" | "jpeg" | "webp";
  /** Of the file, without its ending. */
  name: string;
  /** Whether it stays among the stills. */
  kept: boolean;
}

/** A traced picture as it came, and the view it was traced from. */
export interface Frame {
  picture: ImageBitmap;
  viewKey: string;
  region?: Region;
  samples: number;
  /** Root mean square error before denoising, over the picture's mean. */
  grain?: number;
  /** Share of each light in the picture: "environment", "glow", and lamps by id. */
  shares?: Record<string, number>;
  /** How much of the product's outline is lost against what is behind, on which side, and by how many EV the product
   * is brighter. */
  outline?: { lost: number; where: string; over: number };
  /** EV that a meter proposes for the product. */
  metered?: number;
  /** cd/m² at both ends of the false colours, where they are shown. */
  scale?: [number, number];
  /** What is wrong with the picture, though it could be traced. */
  remark?: string;
}

interface Desk {
  sheet: Sheet;
  /** Whether the first coat is being looked at. */
  firstCoat: boolean;
  /** The shot on the desk; the first of the list if none was selected. */
  shot?: string;
  filter: string;
  grouping: Grouping;
  folded: ReadonlySet<string>;
  /** Columns of the parts schedule, by id. */
  columns: readonly string[];
  chosen: ReadonlySet<string>;
  /** Faces chosen one by one. */
  faces: readonly FaceOf[];
  /** What a click on the picture chooses. */
  pickFaces: boolean;
  /** A sample that is being dragged from the shelf. */
  dragged?: Appearance;
  /** Parts that would change, while it is. */
  lit?: ReadonlySet<string>;
  /** An appearance taken from a part, to be given to others. */
  takenAppearance?: Appearance;
  /** How far an appearance that is given reaches. */
  reach: Reach;
  /** What a filter finds gets its appearance by a rule, which holds for later revisions. */
  byRule: boolean;
  /** What is not chosen is drawn faint. */
  faded: boolean;
  /** Open edges and surfaces seen from inside are marked on what is chosen. */
  showsDefects: boolean;
  /** Handles on the model or the parts that are chosen. */
  handles: boolean;
  /** Everything under the pointer, front to back, where it was asked for. */
  behind?: Behind;
  /** Which sections of the drawer are unfolded, by title. */
  sections: Record<string, boolean>;
  /** The first picture is there, or will not come: what can wait for it waits no longer. */
  settled: boolean;
  /** Bytes of geometry on the desk, and how many it may be. */
  geometry?: { used: number; most: number };
  hovered?: string;
  view?: View;
  /** A still shown in the mat in place of the shaded picture. */
  shownStill?: string;
  /** Appearances as they would be, while a control is dragged. */
  previews: Record<string, Appearance>;
  lightingPreview: Partial<Lighting>;
  /** The section of the shot on the desk, while its plane is dragged. */
  sectionPreview?: Section;
  /** The light that is selected: "surroundings", "glow", or a lamp by id. */
  light: string;
  /** Whether the traced picture shows its luminance in false colours. */
  luminance: boolean;
  /** What the next click in the picture is for. */
  pointing?: "highlight" | "shadow" | "shine" | "floor" | "decal" | "focus" | "grey" | "down";
  /** What a click lays down: a new picture, or a decal that is there, by id. */
  decalInHand?: DecalInHand;
  /** The decal that is selected, by id: the pointer drags it. */
  decal?: string;
  /** What the pointer makes of it just now, in words. */
  decalNote?: string;
  /** Traced light on the desk. */
  lamp: boolean;
  lampPaused: boolean;
  /** Only this part of the picture is traced: left, top, right, bottom as shares. */
  region?: Region;
  drawingRegion: boolean;
  /** Whether a frame is being dragged that the shot is cropped to. */
  cropping: boolean;
  /** Lines over the picture to frame by. */
  guides: Guides;
  /** Whether what is sharp in the shot is tinted. */
  showsSharp: boolean;
  /** A view that goes on being traced in the corner while the desk shows another. */
  inset?: View;
  /** Noise at which the next still ends, in percent; none: after so many samples or minutes. */
  stillNoise?: number;
  frame?: Frame;
  /** Stills that are saved as files as soon as they are done, by id. */
  saves: Record<string, Save>;
  /** A picture from a file or an earlier still, pinned to the desk. */
  reference?: Reference;
  /** Another look, shown beside the picture on the desk. */
  beside?: string;
  /** Another lighting, shown beside the picture on the desk in place of another look. */
  besideLighting?: string;
  /** Another shot, shown beside it in place of both. */
  besideShot?: string;
  besideFrame?: Frame;
  /** The laying whose handles are in the picture, by id. */
  layingHandles?: string;
  /** Why there is no frame. */
  lampMessage?: string;
  choose: (uids: Iterable<string>) => void;
  toggle: (uids: string[]) => void;
  /** Choose a face, alone or (more) with those that are chosen already. */
  chooseFace: (face: FaceOf, more: boolean) => void;
  /** Leaves what is under way; else what was opened last; else nothing is selected any more. */
  stepBack: () => void;
  showColumns: (columns: string[]) => void;
  fold: (id: string) => void;
}

const COLUMNS = "usual-lamp-columns";

/** Columns are a habit of the person, not of the review: the browser keeps them. */
function storedColumns(): string[] {
  try {
    const stored: unknown = JSON.parse(localStorage.getItem(COLUMNS) ?? "[]");
    return Array.isArray(stored) ? stored.filter((id) => typeof id === "string") : [];
  } catch {
    return [];
  }
}

const fresh = {
  sheet: "parts" as Sheet,
  firstCoat: false,
  shot: undefined,
  filter: "",
  grouping: "same part" as Grouping,
  folded: new Set<string>(),
  columns: storedColumns(),
  chosen: new Set<string>(),
  faces: [] as readonly FaceOf[],
  pickFaces: false,
  reach: "parts" as Reach,
  byRule: false,
  dragged: undefined,
  lit: undefined,
  takenAppearance: undefined,
  faded: false,
  showsDefects: false,
  handles: false,
  behind: undefined,
  settled: false,
  geometry: undefined,
  sections: {} as Record<string, boolean>,
  hovered: undefined,
  view: undefined,
  shownStill: undefined,
  saves: {},
  previews: {},
  lightingPreview: {},
  light: "surroundings",
  luminance: false,
  pointing: undefined,
  decalInHand: undefined,
  decal: undefined,
  decalNote: undefined,
  lamp: false,
  lampPaused: false,
  region: undefined,
  drawingRegion: false,
  cropping: false,
  guides: "none" as Guides,
  showsSharp: false,
  inset: undefined,
  stillNoise: undefined,
  frame: undefined,
  reference: undefined,
  beside: undefined,
  besideLighting: undefined,
  besideShot: undefined,
  besideFrame: undefined,
  layingHandles: undefined,
  lampMessage: undefined,
};

/** One step back, as Escape takes it. */
function before(desk: Desk): Partial<Desk> {
  if (desk.pointing || desk.cropping || desk.drawingRegion)
    return { pointing: undefined, decalInHand: undefined, cropping: false, drawingRegion: false };
  if (desk.shownStill) return { shownStill: undefined };
  if (desk.handles || desk.layingHandles) return { handles: false, layingHandles: undefined };
  if (desk.decal) return { decal: undefined };
  if (desk.pickFaces || desk.faces.length > 0) return { pickFaces: false, faces: [] };
  return { chosen: new Set(), faded: false };
}

/** What the desk shows but the review does not keep. */
export const useDesk = create<Desk>((set) => ({
  ...fresh,
  choose: (uids) =>
    set(({ reach }) => ({
      chosen: new Set(uids),
      faces: [],
      reach: reach === "faces" ? "parts" : reach,
    })),
  stepBack: () => set(before),
  chooseFace: (face, more) =>
    set((state) => {
      const known = state.faces.some((one) => one.uid === face.uid && one.face === face.face);
      const others = more ? state.faces.filter((one) => one.uid !== face.uid || one.face !== face.face) : [];
      const faces = known && more ? others : [...others, face];
      // A face that was chosen is what is meant, unless a wider reach is picked afterwards.
      const reach = state.faces.length === 0 && faces.length > 0 ? "faces" : state.reach;
      return { faces, reach, chosen: new Set(faces.map((one) => one.uid)) };
    }),
  showColumns: (columns) => {
    localStorage.setItem(COLUMNS, JSON.stringify(columns));
    set({ columns });
  },
  toggle: (uids) =>
    set((state) => {
      const next = new Set(state.chosen);
      const all = uids.every((uid) => next.has(uid));
      for (const uid of uids) all ? next.delete(uid) : next.add(uid);
      return { chosen: next, faces: state.faces.filter(({ uid }) => next.has(uid)) };
    }),
  fold: (id) =>
    set((state) => {
      const next = new Set(state.folded);
      next.delete(id) || next.add(id);
      return { folded: next };
    }),
}));

export function clearDesk() {
  useDesk.setState({ ...fresh, columns: storedColumns() });
}
