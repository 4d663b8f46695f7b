import type { Camera, Edit, PartState, Shot, Standing } from "../api/client";
import { cameraOf, type View, viewOf, wordsOf } from "./camera";
import { useDesk } from "./deskStore";
import { freshId } from "./lighting";

const LAST = 9999;

/** Ids of the shots as they are listed. */
export function shotsInOrder(shots: Record<string, Shot>): string[] {
  return Object.keys(shots).sort((a, b) => (shots[a]!.place ?? 0) - (shots[b]!.place ?? 0));
}

/** The shot on the desk: the one that was selected last, as long as it is there. */
export function useShotId(standing: Standing): string {
  const selected = useDesk((state) => state.shot);
  const { shots } = standing.scene;
  return selected !== undefined && shots[selected] ? selected : shotsInOrder(shots)[0]!;
}

/** Shows a shot on the desk, as it is kept. */
export function goToShot(standing: Standing, id: string) {
  const shot = standing.scene.shots[id];
  if (shot) showShot(id, shot.camera);
}

function showShot(id: string, camera: Camera) {
  useDesk.setState({ shot: id, view: viewOf(camera), shownStill: undefined, region: undefined });
}

/** A name that no other shot has: the wish, or the wish with a number. */
export function freeName(shots: Record<string, Shot>, wish: string): string {
  const taken = new Set(Object.values(shots).map((shot) => shot.name));
  const stem = wish.replace(/ \d+$/, "");
  let name = stem;
  for (let number = 2; taken.has(name); number++) name = `${stem} ${number}`;
  return name;
}

/** Keeps a view as a further shot, which is otherwise as the present one, and shows it. */
export function addShot(standing: Standing, like: string, view: View, edit: (change: Edit) => void) {
  const { shots } = standing.scene;
  add(shots, { ...shots[like]!, name: freeName(shots, wordsOf(view)), camera: cameraOf(view) }, edit);
}

export function copyShot(standing: Standing, id: string, edit: (change: Edit) => void) {
  const { shots } = standing.scene;
  add(shots, { ...shots[id]!, name: freeName(shots, shots[id]!.name) }, edit);
}

function add(shots: Record<string, Shot>, shot: Shot, edit: (change: Edit) => void) {
  const id = freshId(shots, `shot-${crypto.randomUUID().slice(0, 8)}`);
  edit({ kind: "set_shots", shots: { [id]: { ...shot, locked: false, place: LAST } } });
  showShot(id, shot.camera);
}

/** Puts a shot to another place of the list. */
export function moveShot(standing: Standing, id: string, to: number, edit: (change: Edit) => void) {
  const { shots } = standing.scene;
  const order = shotsInOrder(shots);
  const rest = order.filter((one) => one !== id);
  rest.splice(Math.max(0, Math.min(rest.length, to)), 0, id);
  if (rest.every((one, place) => one === order[place])) return;
  const changed = rest.flatMap((one, place) =>
    shots[one]!.place === place ? [] : [[one, { ...shots[one]!, place }] as const],
  );
  edit({ kind: "set_shots", shots: Object.fromEntries(changed) });
}

/** The standing as a shot shows it: what it alone does not show is hidden. */
export function seenIn(standing: Standing, id: string): Standing {
  const { scene } = standing;
  const hidden = scene.shots[id]?.hidden ?? [];
  if (hidden.length === 0) return standing;
  const states: Record<string, PartState> = Object.fromEntries(hidden.map((uid) => [uid, "hidden"]));
  return { ...standing, scene: { ...scene, states: { ...states, ...scene.states } } };
}
