import { ALL, ALL_PARAMETERS } from "../drawer/parameters";
import { useDesk } from "../state/deskStore";
import * as t from "../words/texts/desk/settings";
import * as p from "../words/texts/drawer/parameters";
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
const LENS = t.depthOfFieldShift;
const GRADING = t.contrastVignetteGlare;

const SHOT: Row[] = [
  [t.focalLength, t.lens, t.zoomWideAnglePerspective],
  [t.exposure, t.exposure, t.brightnessEvBrightDark],
  [t.whiteBalance, t.whiteBalance, t.kelvinTemperatureWarmCold],
  [t.toneCurve, t.toneCurve, t.filmicGammaHighlights],
  [t.purposeAndSizeOf, t.whatThePictureIs, t.slideSheetDpiResolution],
  [t.widthOfThePicture, t.width, t.sizeResolutionPixels],
  [t.heightOfThePicture, t.height, t.sizeResolutionPixels],
  [t.guides, t.guidesOverThePicture, "thirds grid safe area composition"],
  [t.lockTheShot, t.locked, t.protectFreeze],
  [t.aperture, t.aperture, t.depthOfFieldBlur, LENS],
  [t.focusDistance, t.focus, t.sharpDepthOfField, LENS, t.aperture],
  [t.tintWhatIsSharp, t.tintWhatIsSharp, t.depthOfFieldFocus, LENS, t.aperture],
  [t.sensor, t.sensor, t.filmFormatCrop, LENS, t.aperture],
  [t.apertureBlades, t.apertureBlades, t.bokehDiaphragm, LENS, t.aperture],
  [t.lensShiftToThe, t.shiftToTheRight, t.tiltShiftPerspective, LENS],
  [t.lensShiftUpwards, t.shiftUpwards, t.verticalsArchitecturePerspective, LENS],
  [t.roll, t.roll, t.tiltHorizonCamera, LENS],
  [t.cutAwayWhatIs, t.cutUpTo, t.clipNearPlaneClipping, LENS, t.cutAwayWhatIsNearest],
  [t.sectionThroughTheProduct, t.directionOfTheSection, t.cutOpenCutawayHalf, undefined, t.section],
  [t.contrastOfThePicture, t.contrast, t.gradingFinish, GRADING],
  [t.saturationOfThePicture, t.saturation, t.gradingColourFinish, GRADING],
  [t.vignette, t.vignette, t.darkCorners, GRADING],
  [t.glare, t.glare, t.bloomGlowHalo, GRADING],
  [t.sharpening, t.sharpening, "crisp", GRADING],
];
const LIGHT: Row[] = [
  [t.brightnessOfTheSurroundings, t.brightness, t.environmentHdriHdrLevel],
  [t.rotateTheSurroundings, t.rotate, t.environmentHdriTurnAzimuth],
  [t.tiltTheSurroundings, t.tilt, t.environmentHdri],
  [t.contrastOfTheSurroundings, t.contrast, t.environmentHdri],
  [t.saturationOfTheSurroundings, t.saturation, t.environmentHdri],
  [t.tintOfTheSurroundings, t.tintHex, t.environmentHdriColour],
  [t.panoramaFile, t.panoramaFile, t.importHdriHdrExr],
  [t.photometricFile, t.photometricFile, t.iesLampDistribution],
  [t.starterSetOfLamps, t.starterSet, t.threePointKeyFill],
  [t.kindOfFloor, t.kindOfFloor, t.groundPlaneSweepShadow],
  [t.shadowOnTheFloor, t.shadow, t.groundContact, undefined, t.kindOfFloor],
  [t.tiltOfTheFloor, t.tiltOfTheFloor, t.slopeRamp, undefined, t.kindOfFloor],
  [t.heightOfTheFloor, t.heightOfTheFloorAbove, t.groundLevel, undefined, t.kindOfFloor],
  [t.backdrop, t.kindOfBackdrop, t.backgroundGradientPhoto],
  [t.transparentStills, t.transparentStills, t.alphaBackgroundCutOut],
];
const MODEL: Row[] = [
  [t.findings, t.findings, t.neverVisibleDoubleParts],
  [t.cadColours, t.cadColours, t.mergeMaterialsImported],
  [t.orientationOfTheModel, t.orientation, t.upAxisRotateStand],
  [t.tessellation, t.tessellation, t.facetsMeshQualitySmooth],
  [t.roundedEdges, t.radiusOfEdges, t.filletBevelSharpRound, t.edges, t.roundSharpEdgesIn],
  [t.anotherModelOrA, t.addToTheScene, t.tableContextImportSecond],
  [t.updateModel, t.updateModel, t.revisionNewerFileReplace],
];
const PARTS: Row[] = [
  [t.findASample, t.findASample, t.materialAppearanceSearch],
  [t.texturePlacement, t.texturePlacement, t.mappingUvProjectionScale, undefined, t.pictures],
  [t.picturesOnTheAppearance, t.pictures, t.textureMapImageBump],
  [t.mesh, t.mesh, t.repairNormalsCreaseHoles, undefined, t.tessellation],
  [t.layADecal, t.decalFile, t.labelLogoStickerMarking],
  [t.drawADecal, t.drawADecal, t.textQrBarcodeArrow],
];

/** Other words for the parameters of an appearance, by group. */
const SURFACE: Record<string, string> = {
  [p.base]: t.materialAlbedoDiffuseMetal,
  [p.specular]: t.materialGlossShinyMatt,
  [p.transmission]: t.materialGlassClearTransparent,
  [p.subsurface]: t.materialMilkyTranslucentWax,
  [p.coat]: t.materialClearcoatLacquerVarnish,
  [p.fuzzSheen]: t.materialClothVelvetDust,
  [p.thinFilm]: t.materialIridescentOilSoap,
  [p.glowAndOpacity]: t.materialEmissionLightDisplay,
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
  if (room === "parts" && selected.parts === 0) return t.selectPartsFirst;
  if (room === "lamp" && !selected.lamp) return t.selectALampFirst;
  if (room === "decal" && !selected.decal) return t.selectADecalFirst;
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
