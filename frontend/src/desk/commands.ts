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
import { showGuide } from "./Guide";
import type { Command } from "./keys";
import { toggleRegion } from "./LampBar";
import { toggleLamp } from "./LampSwitch";

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
    if (others.length === 0) toast("There is one look only. Copy it on the sheet of appearances first.");
    else desk.setState({ beside: others[beside ? others.indexOf(beside) + 1 : 0] });
  };
  const take = () => {
    const [first] = desk.getState().chosen;
    const worn = first === undefined ? undefined : m.standing.worn[first];
    if (!worn) return;
    const appearance = m.standing.appearances[worn.appearance]!;
    desk.setState({ takenAppearance: appearance });
    toast(`${nameOf(appearance)} is copied. B applies it to the selection.`);
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
    else toast("Select a face first: F, then a click on it.");
  };
  const keepUpright = () => {
    const { view } = desk.getState();
    const level = view && upright(view);
    if (level) desk.setState({ view: level });
    else toast("From here the lens would have to be shifted too far. Look less steeply.");
  };
  const views = (Object.keys(SIX_VIEWS) as SixView[]).map(
    (view): Command => ({
      name: view === "under" ? "Look from below" : `Look from the ${view}`,
      keys: `Alt ${view[0]!.toUpperCase()}`,
      group: "View",
      run: () => m.look(view),
    }),
  );
  return [
    {
      name: "Hide or show the selection",
      also: "visibility blank",
      keys: "H",
      group: "Parts",
      run: m.actions.hide,
    },
    {
      name: "Show everything hidden",
      also: "unhide all",
      keys: "Shift H",
      group: "Parts",
      run: m.actions.showHidden,
    },
    {
      name: "Show only the selection",
      also: "isolate solo",
      keys: "O",
      group: "Parts",
      run: m.actions.only,
    },
    {
      name: "Suppress or bring back the selection",
      also: "exclude delete remove from picture",
      keys: "S",
      group: "Parts",
      run: m.actions.suppress,
    },
    {
      name: "Fade the rest",
      also: "ghost transparent fade",
      keys: "E",
      group: "Parts",
      run: () => desk.setState((now) => ({ faded: !now.faded })),
    },
    {
      name: "Select faces, or parts again",
      also: "select face mode",
      keys: "F",
      group: "Parts",
      run: () => desk.setState((now) => ({ pickFaces: !now.pickFaces, faces: [] })),
    },
    {
      name: "Handles to move and turn",
      also: "transform gizmo explode",
      keys: "M",
      group: "Parts",
      run: () => desk.setState((now) => ({ handles: !now.handles })),
    },
    {
      name: "Copy the appearance of the selection",
      also: "pick eyedropper copy material",
      keys: "A",
      group: "Parts",
      run: take,
    },
    {
      name: "Apply the copied appearance",
      also: "paste paint apply material colour",
      keys: "B",
      group: "Parts",
      run: give,
    },
    { name: "Step to the next part", keys: ".", group: "Parts", run: () => stepThrough(m.standing, 1) },
    { name: "Step to the previous part", keys: ",", group: "Parts", run: () => stepThrough(m.standing, -1) },
    { name: "Select all parts", also: "select everything", keys: "Ctrl A", group: "Parts", run: all },
    {
      name: "Select the other parts",
      also: "invert selection",
      keys: "Shift A",
      group: "Parts",
      run: invert,
    },
    {
      name: "Select parts with no appearance yet",
      also: "unassigned untouched no material",
      keys: "N",
      group: "Parts",
      run: untouched,
    },
    {
      name: "Clear selection",
      also: "deselect clear selection",
      keys: "Escape",
      group: "Parts",
      run: () => desk.getState().stepBack(),
    },
    {
      name: "Filter parts",
      also: "search find name",
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
      name: "Crop the shot by dragging",
      also: "trim frame cut out close-up",
      group: "View",
      blocked: shots[m.shotId]!.locked ? "The shot is locked." : undefined,
      run: () => desk.setState({ cropping: true }),
    },
    {
      name: "Set white balance by a grey",
      also: "colour temperature kelvin pick neutral",
      group: "View",
      blocked: desk.getState().frame
        ? undefined
        : "The colour is read from the traced picture: switch the lamp on.",
      run: () => desk.setState({ pointing: "grey" }),
    },
    {
      name: "Show everything in view",
      also: "zoom fit all extents",
      keys: "W",
      group: "View",
      run: () => m.fit(false),
    },
    {
      name: "Zoom to the selection",
      also: "zoom to selection",
      keys: "C",
      group: "View",
      run: () => m.fit(true),
    },
    {
      name: "Back to the shot",
      also: "reset view camera",
      keys: "D",
      group: "View",
      run: () => goToShot(m.standing, m.shotId),
    },
    {
      name: "Save this view as a shot",
      also: "camera bookmark new shot",
      keys: "V",
      group: "View",
      run: saveView,
    },
    { name: "Step to the next shot", keys: "PageDown", group: "View", run: () => stepShot(1) },
    { name: "Step to the previous shot", keys: "PageUp", group: "View", run: () => stepShot(-1) },
    ...order.map(
      (id, place): Command => ({
        name: `Shot ${place + 1}: ${shots[id]!.name}`,
        keys: place < 9 ? `Alt ${place + 1}` : undefined,
        group: "View",
        run: () => goToShot(m.standing, id),
      }),
    ),
    {
      name: "Isometric from the left",
      group: "View",
      run: () => m.lookAlong(ISOMETRIC.left, { parallel: true }),
    },
    {
      name: "Isometric from the right",
      group: "View",
      run: () => m.lookAlong(ISOMETRIC.right, { parallel: true }),
    },
    { name: "Look straight at the selected face", group: "View", run: lookAtFace },
    { name: "Keep uprights upright, with a shifted lens", group: "View", run: keepUpright },
    {
      name: "Perspective or parallel",
      also: "orthographic projection",
      keys: "P",
      group: "View",
      run: () => {
        const view = desk.getState().view;
        if (view) desk.setState({ view: { ...view, parallel: !view.parallel } });
      },
    },
    ...views,
    {
      name: "Parts sheet",
      also: "schedule bom tree structure",
      keys: "1",
      group: "Desk",
      run: () => desk.setState({ sheet: "parts" }),
    },
    {
      name: "Appearances sheet",
      also: "materials colours finishes",
      keys: "2",
      group: "Desk",
      run: () => desk.setState({ sheet: "appearances" }),
    },
    {
      name: "Lights sheet",
      also: "environment lighting lamp sun sky hdri backdrop floor",
      keys: "3",
      group: "Desk",
      run: () => desk.setState({ sheet: "lights" }),
    },
    {
      name: "Shots sheet",
      also: "cameras views",
      keys: "4",
      group: "Desk",
      run: () => desk.setState({ sheet: "shots" }),
    },
    {
      name: "Compare with another look",
      also: "compare variant colourway",
      keys: "K",
      group: "Desk",
      run: lookBeside,
    },
    {
      name: "Lamp on or off",
      also: "render preview trace ray tracing",
      keys: "L",
      group: "Desk",
      run: toggleLamp,
    },
    {
      name: "Pause or resume tracing",
      keys: "G",
      group: "Desk",
      run: () => desk.setState((now) => ({ lampPaused: now.lamp && !now.lampPaused })),
    },
    {
      name: "Trace only a region, or all again",
      also: "crop render region",
      keys: "R",
      group: "Desk",
      run: () => desk.getState().lamp && toggleRegion(),
    },
    { name: "Save picture", also: "screenshot save image", keys: "Ctrl S", group: "Desk", run: m.keep },
    { name: "Take still", also: "render export image output picture", keys: "T", group: "Desk", run: m.take },
    {
      name: m.standing.undoes ? stepTitle("Undo", m.standing.undoes) : "Undo",
      keys: "Ctrl Z",
      group: "Desk",
      blocked: m.standing.undoes ? undefined : "Nothing to undo",
      run: m.undo,
    },
    {
      name: m.standing.redoes ? stepTitle("Redo", m.standing.redoes) : "Redo",
      keys: "Ctrl Shift Z",
      group: "Desk",
      blocked: m.standing.redoes ? undefined : "Nothing to redo",
      run: m.redo,
    },
    {
      name: "First coat…",
      also: "propose appearances materials automatic assign",
      group: "Desk",
      run: m.firstCoat,
    },
    {
      name: "Contact sheet of stills",
      also: "gallery renders pictures download export compare",
      group: "Desk",
      run: m.showStills,
    },
    {
      name: "Fold the schedules away, or back",
      also: "hide left panel sidebar",
      keys: "[",
      group: "Desk",
      run: m.foldLeft,
    },
    {
      name: "Fold the drawer away, or back",
      also: "hide right panel inspector",
      keys: "]",
      group: "Desk",
      run: m.foldRight,
    },
    {
      name: "The picture alone",
      also: "full screen maximise hide panels",
      keys: "Q",
      group: "Desk",
      run: m.pictureAlone,
    },
    { name: "Guided start", also: "help tutorial tour", group: "Desk", run: showGuide },
    { name: "Find any action", keys: "Ctrl K", group: "Desk", run: m.showBox },
    {
      name: "Keyboard shortcuts",
      also: "shortcuts help hotkeys keyboard",
      keys: "?",
      group: "Desk",
      run: m.showKeys,
    },
  ];
}
