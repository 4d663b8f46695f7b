import { Vector3 } from "three";
import type { AssemblyActions } from "../api/assembly";
import type { Edit, Model, Standing } from "../api/client";
import { placedDecal } from "../api/decals";
import { pointedLamp, shiningTurn } from "../api/lighting";
import { whiteFromGrey } from "../api/shots";
import { toast } from "../api/toast";
import { axes, cameraOf, opticsOf, type View, viewOf } from "../state/camera";
import { type Frame, useDesk } from "../state/deskStore";
import { floorOf, lightingOf, stands } from "../state/lighting";
import type { Stage } from "../viewport/stage";
import type { Pointed } from "../viewport/usePointer";
import { length } from "../words/length";
import * as t from "../words/texts/desk/pointing";

interface Means {
  reviewId: string;
  model: Model;
  standing: Standing;
  shotId: string;
  stage?: Stage;
  edit: (change: Edit) => void;
  place: AssemblyActions["place"];
}

/** Puts the selected lamp, the surroundings or the floor where a point asks for it, and says what became of it. */
export async function pointLamp(m: Means, hit: Pointed | undefined): Promise<void> {
  const { pointing: how, light, view } = useDesk.getState();
  const { id, lighting } = lightingOf(m.standing, m.shotId);
  const lamp = lighting.lamps[light];
  if (!how || !view) return;
  if (!hit) {
    toast(t.thereIsNothingAt);
    return;
  }
  if (how === "decal") return layDecal(m, hit);
  if (how === "focus") return focusAt(m, hit);
  if (how === "down") return setDown(m, hit);
  if (how === "grey") return balanceAt(m, hit);
  if (how === "floor") {
    const { up, height } = floorOf(m.standing, id, lighting);
    const above = hit.point.dot(new Vector3(...up)) - height;
    const lift = Math.round((lighting.floor_finish.lift + above) * 10) / 10;
    const floor_finish = { ...lighting.floor_finish, lift };
    m.edit({ kind: "set_lighting", id, lighting: { ...lighting, floor_finish } });
    useDesk.setState({ pointing: undefined });
    return;
  }
  const [point, normal] = [hit.point.toArray(), hit.normal.toArray()];
  try {
    if (how === "shine" || !lamp) {
      const turn = await shiningTurn({ lighting, point, normal, camera: cameraOf(view) });
      m.edit({ kind: "set_lighting", id, lighting: { ...lighting, turn } });
      useDesk.setState({ pointing: undefined });
      toast(t.theSurroundingsAreRotated(Math.round(turn)));
      return;
    }
    const next = await pointedLamp(m.reviewId, { lamp, how, point, normal, camera: cameraOf(view) });
    m.edit({ kind: "set_lamps", id, lamps: { [light]: next } });
    useDesk.setState({ pointing: undefined });
    const what = how === "highlight" ? t.highlight : t.shadow;
    const shift =
      stands(lamp) && stands(next)
        ? t.moved(length(new Vector3(...lamp.position).distanceTo(new Vector3(...next.position)), 0))
        : "turned";
    const between =
      how === "highlight" && stands(next) && m.stage?.aim.blocked(hit.point, new Vector3(...next.position));
    const part = between && m.model.nodes.find((node) => node.uid === between)?.name;
    toast(t.here(what, lamp.name, shift, part ? t.butIsInThe(part) : t.clearLineOfSight));
  } catch (problem) {
    toast.error((problem as Error).message);
  }
}

/** Puts the model of a face down on it. */
function setDown(m: Means, { uid, face }: Pointed) {
  const owner = m.model.nodes.find((node) => node.uid === uid)?.model;
  if (uid === undefined || face === undefined || !owner) {
    toast(t.thatIsTheFloor);
    return;
  }
  m.place(owner, { face: { uid, face } });
  useDesk.setState({ pointing: undefined });
}

/** Focuses the shot on a spot: on the plane through it, across the axis. */
function focusAt(m: Means, hit: Pointed) {
  const shot = m.standing.scene.shots[m.shotId]!;
  const view = useDesk.getState().view!;
  const depth = (from: View) => {
    const along = hit.point.clone().sub(from.position).dot(axes(from).forward);
    return Math.max(1, Math.round(along * 10) / 10);
  };
  // Somebody may look around: the shot is focused from where it stands, and the view from where that is.
  const far = depth(viewOf(shot.camera));
  const camera = { ...shot.camera, focus_distance: far };
  m.edit({ kind: "set_shot", id: m.shotId, shot: { ...shot, camera } });
  const optics = { ...opticsOf(camera), focus_distance: depth(view) };
  useDesk.setState({ view: { ...view, optics }, pointing: undefined });
  const part = m.model.nodes.find((node) => node.uid === hit.uid)?.name;
  toast(t.sharpAway(part ? t.on(part) : t.there, length(far)));
}

/** Balances the shot's white so that a spot of the traced picture is grey. */
async function balanceAt(m: Means, { at, uid }: Pointed): Promise<void> {
  const { frame } = useDesk.getState();
  if (!frame) return toast(t.switchTheLampOn);
  if (uid === undefined) return toast(t.floorAndBackdropAre);
  const color = colorAt(frame, at);
  if (!color) return toast(t.onlyAPartOf);
  const shot = m.standing.scene.shots[m.shotId]!;
  try {
    const { white, tint } = await whiteFromGrey(color, shot.white);
    m.edit({ kind: "set_shot", id: m.shotId, shot: { ...shot, white } });
    useDesk.setState({ pointing: undefined });
    const rest = tint > 0.06 ? t.itStaysTintedWhat : "";
    toast(t.whiteBalanceK(white, rest));
  } catch (problem) {
    toast.error((problem as Error).message);
  }
}

/** Mean colour of the traced picture round a position given in -1..1, as #RRGGBB; none where it is not traced. */
function colorAt({ picture, region = [0, 0, 1, 1] }: Frame, [x, y]: [number, number]): string | undefined {
  const [left, top, right, bottom] = region;
  const across = ((x + 1) / 2 - left) / (right - left);
  const down = ((1 - y) / 2 - top) / (bottom - top);
  if (across < 0 || across > 1 || down < 0 || down > 1) return undefined;
  const spot = document.createElement("canvas");
  spot.width = spot.height = 1;
  const pen = spot.getContext("2d")!;
  const [px, py] = [Math.floor(across * picture.width), Math.floor(down * picture.height)];
  pen.drawImage(picture, Math.max(0, px - 2), Math.max(0, py - 2), 5, 5, 0, 0, 1, 1);
  const [r = 0, g = 0, b = 0] = pen.getImageData(0, 0, 1, 1).data;
  return `#${[r, g, b].map((value) => value.toString(16).padStart(2, "0")).join("")}`;
}

/** Lays the decal that is in hand on a spot. */
async function layDecal(m: Means, hit: Pointed): Promise<void> {
  const { decalInHand: held } = useDesk.getState();
  if (!held) return;
  if (hit.uid === undefined) {
    toast(t.aDecalLiesOn);
    return;
  }
  const { name, picture, aspect = 1, drawing = null } = held;
  const known = held.id ? m.standing.scene.decals[held.id] : undefined;
  const what = { name, picture: picture ?? known?.picture ?? null, aspect, drawing };
  const decal = await putDecal(m, hit, held.id, { ...what, decal: known ?? null, keep: false });
  if (!decal) return;
  useDesk.setState({ pointing: undefined, decalInHand: undefined });
  useDesk.getState().choose([decal.part]);
  useDesk.setState({ decal: decal.id });
}

/** Puts a decal that was dragged where it was let go, standing as it stood. */
export async function dropDecal(m: Means, id: string, hit: Pointed): Promise<void> {
  const known = m.standing.scene.decals[id];
  if (!known) return;
  const { name, picture, width, height } = known;
  const what = { name, picture, aspect: width / height, drawing: null };
  const decal = await putDecal(m, hit, id, { ...what, decal: known, keep: true });
  if (decal && decal.part !== known.part) useDesk.getState().choose([decal.part]);
  if (decal) useDesk.setState({ decal: id });
}

type DecalWish = Parameters<typeof placedDecal>[1];

/** Puts a decal on a spot of a part, under its id or a new one; says why where that cannot be. */
async function putDecal(
  m: Means,
  { uid, face, point, normal }: Pointed,
  id: string | undefined,
  wish: Omit<DecalWish, "spot" | "camera">,
): Promise<{ id: string; part: string } | undefined> {
  const { view } = useDesk.getState();
  if (!view || uid === undefined || face === undefined) return;
  const spot = { part: uid, face, point: point.toArray(), normal: normal.toArray() };
  try {
    const decal = await placedDecal(m.reviewId, { ...wish, spot, camera: cameraOf(view) });
    const key = id ?? `decal-${crypto.randomUUID().slice(0, 8)}`;
    m.edit({ kind: "set_decals", decals: { [key]: decal } });
    return { id: key, part: decal.part };
  } catch (problem) {
    toast.error((problem as Error).message);
  }
}
