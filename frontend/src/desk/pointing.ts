import { Vector3 } from "three";
import type { Edit, Model, Standing } from "../api/client";
import { placedDecal } from "../api/decals";
import { pointedLamp, shiningTurn } from "../api/lighting";
import { toast } from "../api/toast";
import { axes, cameraOf, opticsOf } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { lightingOf, stands } from "../state/lighting";
import type { Stage } from "../viewport/stage";
import type { Pointed } from "../viewport/Viewport";

/** Stands where the server draws the picture. */
const NO_PICTURE = "0".repeat(64);

interface Means {
  reviewId: string;
  model: Model;
  standing: Standing;
  shotId: string;
  stage?: Stage;
  edit: (change: Edit) => void;
}

/** Puts the selected lamp, the surroundings or the floor where a point asks for it, and says what became of it. */
export async function pointLamp(m: Means, hit: Pointed | undefined): Promise<void> {
  const { pointing: how, light, view } = useDesk.getState();
  const { id, lighting } = lightingOf(m.standing, m.shotId);
  const lamp = lighting.lamps[light];
  if (!how || !view) return;
  if (!hit) {
    toast("There is nothing at that spot. Click on the product or on the floor.");
    return;
  }
  if (how === "decal") return layDecal(m, hit);
  if (how === "focus") return focusAt(m, hit);
  if (how === "floor") {
    const lift = Math.round((hit.point.z - m.standing.floor) * 10) / 10;
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
      toast(`The surroundings are rotated to ${Math.round(turn)}°: this spot mirrors a bright area now.`);
      return;
    }
    const next = await pointedLamp(m.reviewId, { lamp, how, point, normal, camera: cameraOf(view) });
    m.edit({ kind: "set_lamps", id, lamps: { [light]: next } });
    useDesk.setState({ pointing: undefined });
    const what = how === "highlight" ? "Highlight" : "Shadow";
    const shift =
      stands(lamp) && stands(next)
        ? `moved ${Math.round(new Vector3(...lamp.position).distanceTo(new Vector3(...next.position)))} mm`
        : "turned";
    const between =
      how === "highlight" && stands(next) && m.stage?.blocked(hit.point, new Vector3(...next.position));
    const part = between && m.model.nodes.find((node) => node.uid === between)?.name;
    toast(
      `${what} here: ${lamp.name} ${shift}${part ? `, but ${part} is in the way.` : ", clear line of sight."}`,
    );
  } catch (problem) {
    toast.error((problem as Error).message);
  }
}

/** Focuses the shot on a spot: on the plane through it, across the axis. */
function focusAt(m: Means, hit: Pointed) {
  const shot = m.standing.scene.shots[m.shotId]!;
  const view = useDesk.getState().view!;
  const { forward } = axes(view);
  const far = Math.max(1, Math.round(hit.point.clone().sub(view.position).dot(forward) * 10) / 10);
  const optics = { ...opticsOf(shot.camera), focus_distance: far };
  m.edit({ kind: "set_shot", id: m.shotId, shot: { ...shot, camera: { ...shot.camera, ...optics } } });
  useDesk.setState({ view: { ...view, optics }, pointing: undefined });
  const part = m.model.nodes.find((node) => node.uid === hit.uid)?.name;
  toast(`Sharp ${part ? `on ${part}` : "there"}, ${far} mm away.`);
}

/** Lays the decal that is in hand on a spot. */
async function layDecal(m: Means, hit: Pointed): Promise<void> {
  const { decalInHand: held, view } = useDesk.getState();
  if (!held || !view) return;
  if (hit.uid === undefined || hit.face === undefined) {
    toast("A decal lies on a part. Click on the product.");
    return;
  }
  const spot = { part: hit.uid, face: hit.face, point: hit.point.toArray(), normal: hit.normal.toArray() };
  const { name, picture, aspect = 1, drawing = null } = held;
  const known = held.id ? m.standing.scene.decals[held.id] : undefined;
  try {
    const camera = cameraOf(view);
    const body = { spot, camera, name, picture: picture ?? known?.picture ?? NO_PICTURE, aspect, drawing };
    const decal = await placedDecal(m.reviewId, { ...body, decal: known ?? null, keep: false });
    const id = held.id ?? `decal-${crypto.randomUUID().slice(0, 8)}`;
    m.edit({ kind: "set_decals", decals: { [id]: decal } });
    useDesk.setState({ pointing: undefined, decalInHand: undefined });
    useDesk.getState().choose([decal.part]);
    useDesk.setState({ decal: id });
  } catch (problem) {
    toast.error((problem as Error).message);
  }
}

/** Puts a decal that was dragged where it was let go, standing as it stood. */
export async function dropDecal(m: Means, id: string, hit: Pointed): Promise<void> {
  const { view } = useDesk.getState();
  const known = m.standing.scene.decals[id];
  if (!known || !view || hit.uid === undefined || hit.face === undefined) return;
  const spot = { part: hit.uid, face: hit.face, point: hit.point.toArray(), normal: hit.normal.toArray() };
  const { name, picture } = known;
  const aspect = known.width / known.height;
  try {
    const body = { spot, camera: cameraOf(view), name, picture, aspect, drawing: null, decal: known };
    const decal = await placedDecal(m.reviewId, { ...body, keep: true });
    m.edit({ kind: "set_decals", decals: { [id]: decal } });
    if (decal.part !== known.part) useDesk.getState().choose([decal.part]);
    useDesk.setState({ decal: id });
  } catch (problem) {
    toast.error((problem as Error).message);
  }
}
