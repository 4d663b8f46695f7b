import { ALL, ALL_PARAMETERS } from "../drawer/parameters";
import { useDesk } from "../state/deskStore";
import { DECAL, LAMP, type Row } from "./settingsOfOne";

/** Where on the desk a setting stands: the model's card, the lamp or the decal that is selected, the rest by sheet. */
type Room = "model" | "parts" | "lights" | "shots" | "lamp" | "decal";

export interface Setting {
  /** As the search lists it. */
  name: string;
  /** As the field, or the section, is called where it stands; of several, told apart by "|", the one that is there. */
  field: string;
  room: Room;
  /** The section that holds it, folded or not. */
  section?: string;
  /** What to go to while the field is not there: what brings it. */
  instead?: string;
  also: string;
}

const PARAMETER = "parameter:";
const LENS = "Depth of field, shift, roll and cut";
const GRADING = "Contrast, vignette, glare";

const SHOT: Row[] = [
  ["Focal length", "Lens", "zoom wide angle perspective camera mm"],
  ["Exposure", "Exposure", "brightness ev bright dark camera"],
  ["White balance", "White balance", "kelvin temperature warm cold grey"],
  ["Tone curve", "Tone curve", "filmic gamma highlights"],
  ["Purpose and size of the picture", "What the picture is made for", "slide sheet dpi resolution"],
  ["Width of the picture", "Width", "size resolution pixels"],
  ["Height of the picture", "Height", "size resolution pixels"],
  ["Guides", "Guides over the picture", "thirds grid safe area composition"],
  ["Lock the shot", "Locked", "protect freeze"],
  ["Aperture", "Aperture", "depth of field blur bokeh f-number f-stop", LENS],
  ["Focus distance", "Focus", "sharp depth of field blur", LENS, "Aperture"],
  ["Tint what is sharp", "Tint what is sharp", "depth of field focus", LENS, "Aperture"],
  ["Sensor", "Sensor", "film format crop", LENS, "Aperture"],
  ["Aperture blades", "Aperture blades", "bokeh diaphragm", LENS, "Aperture"],
  ["Lens shift to the right", "Shift to the right", "tilt shift perspective", LENS],
  ["Lens shift upwards", "Shift upwards", "verticals architecture perspective", LENS],
  ["Roll", "Roll", "tilt horizon camera", LENS],
  ["Cut away what is nearest", "Cut up to", "clip near plane clipping", LENS, "Cut away what is nearest…"],
  [
    "Section through the product",
    "Direction of the section",
    "cut open cutaway half clip inside cross section plane",
    undefined,
    "Section…",
  ],
  ["Contrast of the picture", "Contrast", "grading finish", GRADING],
  ["Saturation of the picture", "Saturation", "grading colour finish", GRADING],
  ["Vignette", "Vignette", "dark corners", GRADING],
  ["Glare", "Glare", "bloom glow halo", GRADING],
  ["Sharpening", "Sharpening", "crisp", GRADING],
];
const LIGHT: Row[] = [
  ["Brightness of the surroundings", "Brightness", "environment hdri hdr level ev light"],
  ["Rotate the surroundings", "Rotate", "environment hdri turn azimuth"],
  ["Tilt the surroundings", "Tilt", "environment hdri"],
  ["Contrast of the surroundings", "Contrast", "environment hdri"],
  ["Saturation of the surroundings", "Saturation", "environment hdri"],
  ["Tint of the surroundings", "Tint, hex", "environment hdri colour"],
  ["Panorama file", "Panorama file", "import hdri hdr exr environment"],
  ["Photometric file", "Photometric file", "ies lamp distribution"],
  ["Starter set of lamps", "Starter set", "three point key fill rim studio"],
  ["Kind of floor", "Kind of floor", "ground plane sweep shadow catcher"],
  ["Shadow on the floor", "Shadow", "ground contact", undefined, "Kind of floor"],
  [
    "Height of the floor",
    "Height of the floor above the lowest part",
    "ground level",
    undefined,
    "Kind of floor",
  ],
  ["Backdrop", "Kind of backdrop", "background gradient photo"],
  ["Transparent stills", "Transparent stills", "alpha background cut out"],
];
const MODEL: Row[] = [
  ["Findings", "Findings", "never visible double parts clean up"],
  ["CAD colours", "CAD colours", "merge materials imported"],
  ["Orientation of the model", "Orientation", "up axis rotate stand face down turn"],
  ["Tessellation", "Tessellation", "facets mesh quality smooth triangles"],
  [
    "Rounded edges",
    "Radius of edges",
    "fillet bevel sharp round",
    "Edges",
    "Round sharp edges in traced pictures",
  ],
  ["Another model or a piece", "Add to the scene", "table context import second"],
  ["Update model", "Update model", "revision newer file replace"],
];
const PARTS: Row[] = [
  ["Find a sample", "Find a sample", "material appearance search"],
  [
    "Texture placement",
    "Texture placement",
    "mapping uv projection scale grain direction",
    undefined,
    "Pictures",
  ],
  ["Pictures on the appearance", "Pictures", "texture map image bump"],
  ["Mesh", "Mesh", "repair normals crease holes", undefined, "Tessellation"],
  ["Lay a decal", "Decal file", "label logo sticker marking"],
  ["Draw a decal", "Draw a decal", "text qr barcode arrow scale"],
];

/** Other words for the parameters of an appearance, by group. */
const SURFACE: Record<string, string> = {
  Base: "material albedo diffuse metal colour",
  Specular: "material gloss shiny matt reflection roughness brushed",
  Transmission: "material glass clear transparent tint",
  Subsurface: "material milky translucent wax",
  Coat: "material clearcoat lacquer varnish",
  "Fuzz (sheen)": "material cloth velvet dust",
  "Thin film": "material iridescent oil soap heat tint",
  "Glow and opacity": "material emission light display cut-out",
};

/** "Coat: colour", and "Coat weight" where the label says of what. */
function titled(group: string, label: string): string {
  return label.startsWith(group.split(" ")[0]!) ? label : `${group}: ${label.toLowerCase()}`;
}

/** Every parameter of what the selected parts wear; one that has no effect yet leads to the first of its group. */
const PARAMETERS: Setting[] = ALL.flatMap(({ name: group, rows: listed }) =>
  listed.map((row) => ({
    name: titled(group, row.label),
    field: `${PARAMETER}${row.name}`,
    room: "parts" as const,
    section: ALL_PARAMETERS,
    also: SURFACE[group] ?? "material",
    instead: `${PARAMETER}${listed[0]!.name}`,
  })),
);

const rows = (room: Room, list: Row[]): Setting[] =>
  list.map(([name, field, also, section, instead]) => ({ name, field, section, also, instead, room }));

/** Every field and section that can be gone to by name. */
export const SETTINGS: readonly Setting[] = [
  ...rows("shots", SHOT),
  ...rows("lights", LIGHT),
  ...rows("model", MODEL),
  ...rows("parts", PARTS),
  ...rows("lamp", LAMP),
  ...rows("decal", DECAL),
  ...PARAMETERS,
];

/** What is selected: how many parts, and whether a lamp and a decal are. */
export interface Selected {
  parts: number;
  lamp: boolean;
  decal: boolean;
}

/** Why a setting cannot be gone to now. */
export function blockedSetting({ room }: Setting, selected: Selected): string | undefined {
  if (room === "parts" && selected.parts === 0) return "Select parts first";
  if (room === "lamp" && !selected.lamp) return "Select a lamp first";
  if (room === "decal" && !selected.decal) return "Select a decal first";
  return undefined;
}

const SHEETS = {
  model: "parts",
  parts: "parts",
  decal: "parts",
  lights: "lights",
  lamp: "lights",
  shots: "shots",
} as const;

/** Opens the sheet and the section of a setting, and takes the keyboard to it. */
export function goToSetting({ field, section, instead, room }: Setting) {
  useDesk.setState(({ sections, light }) => ({
    sheet: SHEETS[room],
    shownStill: undefined,
    sections: { ...sections, [section ?? field]: true },
    light: room === "lights" ? "surroundings" : light,
  }));
  // What a filter finds stands in the model's place while nothing is selected.
  if (room === "model") {
    useDesk.setState({ filter: "" });
    useDesk.getState().choose([]);
  }
  asked += 1;
  reveal([field, instead], 40, room === "decal" ? DECAL_CARD : "aside, #root");
}

/** How often a setting was gone to: what is still waited for gives way to what is asked for later. */
let asked = 0;

/** Waits for the first of some fields to be drawn, for so many frames at most, then for the next. */
function reveal(
  [field, ...others]: (string | undefined)[],
  frames: number,
  areas: string,
  left = frames,
  turn = asked,
) {
  if (!field) return;
  requestAnimationFrame(() => {
    if (turn !== asked) return;
    const found = field
      .split("|")
      .reduce<HTMLElement | undefined>((one, name) => one ?? fieldCalled(name, areas), undefined);
    if (!found) {
      if (left > 0) reveal([field, ...others], frames, areas, left - 1, turn);
      else reveal(others, frames, areas, frames, turn);
      return;
    }
    found.scrollIntoView({ block: "center" });
    found.focus({ preventScroll: true });
  });
}

/** Of the decal that is selected. */
const DECAL_CARD = "[data-decal][data-selected=true]";
const FOCUSABLE = "input, select, textarea, button, [role=slider], [role=switch]";

/** What takes the keyboard of a field, a switch or a section of that name, in the first of some areas that has it. */
function fieldCalled(name: string, areas: string): HTMLElement | undefined {
  if (name.startsWith(PARAMETER))
    return (
      document.querySelector<HTMLElement>(
        `[data-parameter="${name.slice(PARAMETER.length)}"] :is(${FOCUSABLE})`,
      ) ?? undefined
    );
  for (const area of document.querySelectorAll<HTMLElement>(areas)) {
    for (const one of area.querySelectorAll<HTMLElement>(`[aria-label="${CSS.escape(name)}"]`)) {
      // The field of a file is not seen; its button stands before it.
      if (one.matches("[type=file]")) return one.previousElementSibling as HTMLElement;
      return one.matches(FOCUSABLE) ? one : (one.querySelector<HTMLElement>(FOCUSABLE) ?? undefined);
    }
    for (const one of area.querySelectorAll<HTMLElement>("label, button"))
      if (one.textContent?.trim() === name)
        return one.matches("button") ? one : (one.querySelector<HTMLElement>(FOCUSABLE) ?? undefined);
  }
  return undefined;
}
