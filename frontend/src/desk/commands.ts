import type { Vector3 } from "three";
import type { Edit, Model, Standing } from "../api/client";
import { stepTitle } from "../api/steps";
import { toast } from "../api/toast";
import { nameOf } from "../schedules/appearances/uses";
import { ISOMETRIC, SIX_VIEWS, type SixView, upright, type View } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { givingEdit } from "../state/giving";
import { type PartActions, stepThrough } from "../state/partActions";
import { addShot, goToShot, shotsInOrder } from "../state/shots";
import * as t from "../words/texts/desk/commands";
import type { Command } from "./keys";
import { toggleRegion } from "./LampBar";
import { toggleLamp } from "./LampSwitch";
import { showGuide } from "./showGuide";

interface Means {
  model: Model;
  standing: Standing;
  shotId: string;
  edit: (change: Edit) => void;
  actions: PartActions;
  undo: () => void;
  redo: () => void;
  take: () => void;
  keep: () => void;
  fit: (chosenOnly: boolean) => void;
  look: (view: SixView) => void;
  lookAlong: (direction: Vector3, change?: Partial<View>) => void;
  /** Outwards, of the selected face. */
  faceNormal: () => Vector3 | undefined;
  showKeys: () => void;
  showBox: () => void;
  showStills: () => void;
  firstCoat: () => void;
  foldLeft: () => void;
  foldRight: () => void;
  pictureAlone: () => void;
}

/** Everything that can be done on the desk, once: for keys, tooltips, the list of keys and the command box. */
export function commandsOf(m: Means): Command[] {
  const desk = useDesk;
  const all = () => desk.getState().choose(Object.keys(m.standing.worn));
  const invert = () =>
    desk.getState().choose(Object.keys(m.standing.worn).filter((uid) => !desk.getState().chosen.has(uid)));
  const untouched = () =>
    desk.getState().choose(
      Object.entries(m.standing.worn)
        .filter(([, worn]) => worn.why === "from CAD" || worn.why === "nothing yet")
        .map(([uid]) => uid),
    );
  const lookBeside = () => {
    const { looks = {}, look } = m.standing.scene;
    const others = Object.keys(looks).filter((id) => id !== look);
    const { beside } = desk.getState();
    if (others.length === 0) toast(t.thereIsOneLook);
    else desk.setState({ beside: others[beside ? others.indexOf(beside) + 1 : 0] });
  };
  const take = () => {
    const [first] = desk.getState().chosen;
    const worn = first === undefined ? undefined : m.standing.worn[first];
    if (!worn) return;
    const appearance = m.standing.appearances[worn.appearance]!;
    desk.setState({ takenAppearance: appearance });
    toast(t.isCopiedBApplies(nameOf(appearance)));
  };
  const give = () => {
    const { takenAppearance: appearance, chosen, faces } = desk.getState();
    const uids = [...chosen].filter((uid) => m.standing.worn[uid]);
    if (!appearance || uids.length === 0) return;
    const target = { model: m.model, standing: m.standing, uids, faces };
    m.edit(givingEdit(appearance, faces.length > 0 ? "faces" : "parts", target));
  };
  const { shots } = m.standing.scene;
  const order = shotsInOrder(shots);
  const stepShot = (by: 1 | -1) => {
    const next = order[(order.indexOf(m.shotId) + by + order.length) % order.length];
    if (next) goToShot(m.standing, next);
  };
  const saveView = () => {
    const { view } = desk.getState();
    if (view) addShot(m.standing, m.shotId, view, m.edit);
  };
  const lookAtFace = () => {
    const normal = m.faceNormal();
    if (normal) m.lookAlong(normal);
    else toast(t.selectAFaceFirst);
  };
  const keepUpright = () => {
    const { view } = desk.getState();
    const level = view && upright(view);
    if (level) desk.setState({ view: level });
    else toast(t.fromHereTheLens);
  };
  const views = (Object.keys(SIX_VIEWS) as SixView[]).map(
    (view): Command => ({
      name: view === "under" ? t.lookFromBelow : t.lookFromThe(view),
      keys: `Alt ${view[0]!.toUpperCase()}`,
      group: "View",
      run: () => m.look(view),
    }),
  );
  return [
    {
      name: t.hideOrShowThe,
      also: t.visibilityBlank,
      keys: "H",
      group: "Parts",
      run: m.actions.hide,
    },
    {
      name: t.showEverythingHidden,
      also: t.unhideAll,
      keys: "Shift H",
      group: "Parts",
      run: m.actions.showHidden,
    },
    {
      name: t.showOnlyTheSelection,
      also: t.isolateSolo,
      keys: "O",
      group: "Parts",
      run: m.actions.only,
    },
    {
      name: t.suppressOrBringBack,
      also: t.excludeDeleteRemoveFrom,
      keys: "S",
      group: "Parts",
      run: m.actions.suppress,
    },
    {
      name: t.fadeTheRest,
      also: t.ghostTransparentFade,
      keys: "E",
      group: "Parts",
      run: () => desk.setState((now) => ({ faded: !now.faded })),
    },
    {
      name: t.selectFacesOrParts,
      also: t.selectFaceMode,
      keys: "F",
      group: "Parts",
      run: () => desk.setState((now) => ({ pickFaces: !now.pickFaces, faces: [] })),
    },
    {
      name: t.handlesToMoveAnd,
      also: t.transformGizmoExplode,
      keys: "M",
      group: "Parts",
      run: () => desk.setState((now) => ({ handles: !now.handles })),
    },
    {
      name: t.copyTheAppearanceOf,
      also: t.pickEyedropperCopyMaterial,
      keys: "A",
      group: "Parts",
      run: take,
    },
    {
      name: t.applyTheCopiedAppearance,
      also: t.pastePaintApplyMaterial,
      keys: "B",
      group: "Parts",
      run: give,
    },
    { name: t.stepToTheNext, keys: ".", group: "Parts", run: () => stepThrough(m.standing, 1) },
    { name: t.stepToThePrevious, keys: ",", group: "Parts", run: () => stepThrough(m.standing, -1) },
    { name: t.selectAllParts, also: t.selectEverything, keys: "Ctrl A", group: "Parts", run: all },
    {
      name: t.selectTheOtherParts,
      also: t.invertSelection,
      keys: "Shift A",
      group: "Parts",
      run: invert,
    },
    {
      name: t.selectPartsWithNo,
      also: t.unassignedUntouchedNoMaterial,
      keys: "N",
      group: "Parts",
      run: untouched,
    },
    {
      name: t.clearSelection,
      also: t.deselectClearSelection,
      keys: "Escape",
      group: "Parts",
      run: () => desk.getState().stepBack(),
    },
    {
      name: t.filterParts,
      also: t.searchFindName,
      keys: "/",
      group: "Parts",
      run: () => {
        desk.setState({ sheet: "parts" });
        const field = () => document.getElementById("parts-filter");
        // At once where it is there: what is typed next must not be lost, or taken for keys.
        if (field()) field()!.focus();
        else requestAnimationFrame(() => field()?.focus());
      },
    },
    {
      name: t.cropTheShotBy,
      also: t.trimFrameCutOut,
      group: "View",
      blocked: shots[m.shotId]!.locked ? t.theShotIsLocked : undefined,
      run: () => desk.setState({ cropping: true }),
    },
    {
      name: t.setWhiteBalanceBy,
      also: t.colourTemperatureKelvinPick,
      group: "View",
      blocked: desk.getState().frame ? undefined : t.theColourIsRead,
      run: () => desk.setState({ pointing: "grey" }),
    },
    {
      name: t.showEverythingInView,
      also: t.zoomFitAllExtents,
      keys: "W",
      group: "View",
      run: () => m.fit(false),
    },
    {
      name: t.zoomToTheSelection,
      also: t.zoomToSelection,
      keys: "C",
      group: "View",
      run: () => m.fit(true),
    },
    {
      name: t.backToTheShot,
      also: t.resetViewCamera,
      keys: "D",
      group: "View",
      run: () => goToShot(m.standing, m.shotId),
    },
    {
      name: t.saveThisViewAs,
      also: t.cameraBookmarkNewShot,
      keys: "V",
      group: "View",
      run: saveView,
    },
    { name: t.stepToTheNextShot, keys: "PageDown", group: "View", run: () => stepShot(1) },
    { name: t.stepToThePreviousShot, keys: "PageUp", group: "View", run: () => stepShot(-1) },
    ...order.map(
      (id, place): Command => ({
        name: t.shot(place + 1, shots[id]!.name),
        keys: place < 9 ? `Alt ${place + 1}` : undefined,
        group: "View",
        run: () => goToShot(m.standing, id),
      }),
    ),
    {
      name: t.isometricFromTheLeft,
      group: "View",
      run: () => m.lookAlong(ISOMETRIC.left, { parallel: true }),
    },
    {
      name: t.isometricFromTheRight,
      group: "View",
      run: () => m.lookAlong(ISOMETRIC.right, { parallel: true }),
    },
    { name: t.lookStraightAtThe, group: "View", run: lookAtFace },
    { name: t.keepUprightsUprightWith, group: "View", run: keepUpright },
    {
      name: t.perspectiveOrParallel,
      also: t.orthographicProjection,
      keys: "P",
      group: "View",
      run: () => {
        const view = desk.getState().view;
        if (view) desk.setState({ view: { ...view, parallel: !view.parallel } });
      },
    },
    ...views,
    {
      name: t.partsSheet,
      also: t.scheduleBomTreeStructure,
      keys: "1",
      group: "Desk",
      run: () => desk.setState({ sheet: "parts" }),
    },
    {
      name: t.appearancesSheet,
      also: t.materialsColoursFinishes,
      keys: "2",
      group: "Desk",
      run: () => desk.setState({ sheet: "appearances" }),
    },
    {
      name: t.lightsSheet,
      also: t.environmentLightingLampSun,
      keys: "3",
      group: "Desk",
      run: () => desk.setState({ sheet: "lights" }),
    },
    {
      name: t.shotsSheet,
      also: t.camerasViews,
      keys: "4",
      group: "Desk",
      run: () => desk.setState({ sheet: "shots" }),
    },
    {
      name: t.compareWithAnotherLook,
      also: t.compareVariantColourway,
      keys: "K",
      group: "Desk",
      run: lookBeside,
    },
    {
      name: t.lampOnOrOff,
      also: t.renderPreviewTraceRay,
      keys: "L",
      group: "Desk",
      run: toggleLamp,
    },
    {
      name: t.pauseOrResumeTracing,
      keys: "G",
      group: "Desk",
      run: () => desk.setState((now) => ({ lampPaused: now.lamp && !now.lampPaused })),
    },
    {
      name: t.traceOnlyARegion,
      also: t.cropRenderRegion,
      keys: "R",
      group: "Desk",
      run: () => desk.getState().lamp && toggleRegion(),
    },
    { name: t.savePicture, also: t.screenshotSaveImage, keys: "Ctrl S", group: "Desk", run: m.keep },
    { name: t.takeStill, also: t.renderExportImageOutput, keys: "T", group: "Desk", run: m.take },
    {
      name: m.standing.undoes ? stepTitle("undo", m.standing.undoes) : t.undo,
      keys: "Ctrl Z",
      group: "Desk",
      blocked: m.standing.undoes ? undefined : t.nothingToUndo,
      run: m.undo,
    },
    {
      name: m.standing.redoes ? stepTitle("redo", m.standing.redoes) : t.redo,
      keys: "Ctrl Shift Z",
      group: "Desk",
      blocked: m.standing.redoes ? undefined : t.nothingToRedo,
      run: m.redo,
    },
    {
      name: t.firstCoat,
      also: t.proposeAppearancesMaterialsAutomatic,
      group: "Desk",
      run: m.firstCoat,
    },
    {
      name: t.contactSheetOfStills,
      also: t.galleryRendersPicturesDownload,
      group: "Desk",
      run: m.showStills,
    },
    {
      name: t.foldTheSchedulesAway,
      also: t.hideLeftPanelSidebar,
      keys: "[",
      group: "Desk",
      run: m.foldLeft,
    },
    {
      name: t.foldTheDrawerAway,
      also: t.hideRightPanelInspector,
      keys: "]",
      group: "Desk",
      run: m.foldRight,
    },
    {
      name: t.thePictureAlone,
      also: t.fullScreenMaximiseHide,
      keys: "Q",
      group: "Desk",
      run: m.pictureAlone,
    },
    { name: t.guidedStart, also: t.helpTutorialTour, group: "Desk", run: showGuide },
    { name: t.findAnyAction, keys: "Ctrl K", group: "Desk", run: m.showBox },
    {
      name: t.keyboardShortcuts,
      also: t.shortcutsHelpHotkeysKeyboard,
      keys: "?",
      group: "Desk",
      run: m.showKeys,
    },
  ];
}
