import { useEffect, useRef } from "react";
import type { Vector3 } from "three";
import type { Decal, Schemas } from "../api/client";
import { decalSnaps } from "../api/decals";
import { mmAcross, shiftedView, turned, type View, zoomed } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { length, lengthNumber } from "../words/length";
import * as t from "../words/texts/viewport/usePointer";
import type { Grip } from "./decalGrips";
import type { Hit } from "./picking";
import type { Stage } from "./stage";

export interface Pointed {
  point: Vector3;
  normal: Vector3;
  /** Where it was clicked, -1..1 across and upwards. */
  at: [number, number];
  /** The part and its face; none on the floor. */
  uid?: string;
  face?: number;
}

const TURN_PER_PIXEL = 0.0065;
/** Degrees that the surroundings rotate. */
const LIGHT_PER_PIXEL = 0.4;
/** Pixels in which a decal that is moved stops at a line. */
const SNAPS_WITHIN = 7;

/** What becomes of decals that the pointer takes hold of. */
export interface DecalWork {
  reviewId: string;
  /** Put on another face or part, where the core lays it. */
  put?: (id: string, hit: Pointed) => void;
  /** Changed where it is. */
  change?: (id: string, decal: Decal) => void;
}

/** What the pointer does between press and release. */
interface Drag {
  x: number;
  y: number;
  button: number;
  moved: boolean;
  view: View;
  turnsLight: boolean;
  grip?: Grip;
  /** The decal that is moved, and where it was taken. */
  decal?: { id: string; from: Hit; snaps?: Schemas["Snaps"] };
  /** The decal as it would be. */
  next?: Decal;
}

/** Left drag turns, right or Shift drag moves, wheel zooms at the pointer, click chooses, double-click focuses. A
 * decal that is selected is moved, sized and turned by what the pointer takes of it. */
export function usePointer(
  ref: React.RefObject<HTMLCanvasElement | null>,
  stage: Stage | undefined,
  onPoint: ((hit: Pointed | undefined) => void) | undefined,
  decalWork: DecalWork,
  turnLight: React.RefObject<(by: number, keep: boolean) => undefined>,
) {
  const told = useRef(onPoint);
  told.current = onPoint;
  const work = useRef(decalWork);
  work.current = decalWork;
  useEffect(() => {
    const canvas = ref.current;
    if (!canvas || !stage) return;
    const stop = new AbortController();
    const options = { signal: stop.signal };
    const desk = () => useDesk.getState();
    let drag: Drag | undefined;
    let hoverFrame = 0;

    const place = (event: MouseEvent): [number, number] => {
      const box = canvas.getBoundingClientRect();
      return [
        ((event.clientX - box.left) / box.width) * 2 - 1,
        1 - ((event.clientY - box.top) / box.height) * 2,
      ];
    };
    /** The selected decal, if it is under the pointer and may be moved. */
    const held = (at: [number, number]): Drag["decal"] => {
      const { decal, pointing } = desk();
      if (!decal || pointing || !work.current.change) return undefined;
      const hit = stage.aim.pick(...at);
      const under = hit && stage.decals.at(hit);
      return hit && under?.id === decal && !under.decal.locked ? { id: decal, from: hit } : undefined;
    };
    const gripAt = (at: [number, number]) =>
      desk().pointing || !work.current.change ? undefined : stage.gripAt(...at);
    const hover = (at: [number, number]) => {
      canvas.style.cursor = cursorOf(gripAt(at));
      useDesk.setState({ hovered: stage.aim.pick(...at)?.uid });
    };
    const pull = (grip: Grip, event: PointerEvent) => {
      const ray = stage.aim.ray(...place(event));
      const next = ray && stage.decals.pull(grip, ray, event.shiftKey);
      if (next) useDesk.setState({ decalNote: grip.kind === "turn" ? t.turned(next.turn) : sizeOf(next) });
      return next;
    };
    /** Moves a decal: on its face it stops at lines, elsewhere it lies as it would be put on. */
    const move = ({ decal }: Drag, event: PointerEvent): Decal | undefined => {
      const { id, from, snaps } = decal!;
      const hit = stage.aim.pick(...place(event));
      if (hit?.uid !== from.uid || hit.face !== from.face) {
        stage.decals.drag(id, hit);
        useDesk.setState({ decalNote: undefined });
        return undefined;
      }
      const within = event.ctrlKey
        ? 0
        : (SNAPS_WITHIN * mmAcross(desk().view!, hit.point)) / canvas.clientWidth;
      const { decal: next, lines } = stage.decals.slide(id, from.point, hit.point, snaps, within) ?? {};
      useDesk.setState({ decalNote: lines?.map(({ what }) => what).join(" · ") || undefined });
      return next;
    };
    canvas.addEventListener(
      "pointerdown",
      (event) => {
        const view = desk().view;
        if (!view || stage.handling) return;
        canvas.setPointerCapture(event.pointerId);
        const at = place(event);
        const grip = event.button === 0 ? gripAt(at) : undefined;
        const decal = event.button === 0 && !grip && !event.shiftKey ? held(at) : undefined;
        drag = {
          x: event.clientX,
          y: event.clientY,
          button: event.shiftKey ? 2 : event.button,
          moved: false,
          view,
          turnsLight: event.altKey,
          grip,
          decal,
        };
        if (decal)
          decalSnaps(work.current.reviewId, decal.id, decal.from.face).then(
            (found) => {
              decal.snaps = found;
            },
            // Without lines to stop at it is moved freely.
            () => undefined,
          );
      },
      options,
    );
    canvas.addEventListener(
      "pointermove",
      (event) => {
        if (!drag) {
          cancelAnimationFrame(hoverFrame);
          hoverFrame = requestAnimationFrame(() => hover(place(event)));
          return;
        }
        const dx = event.clientX - drag.x;
        const dy = event.clientY - drag.y;
        if (!drag.moved && Math.hypot(dx, dy) < 4) return;
        drag.moved = true;
        if (drag.grip) drag.next = pull(drag.grip, event);
        else if (drag.decal) drag.next = move(drag, event);
        else if (drag.turnsLight) turnLight.current(dx * LIGHT_PER_PIXEL, false);
        else {
          const view =
            drag.button === 0
              ? turned(drag.view, -dx * TURN_PER_PIXEL, dy * TURN_PER_PIXEL)
              : shiftedView(drag.view, dx / canvas.clientWidth, dy / canvas.clientWidth);
          useDesk.setState({ view });
        }
      },
      options,
    );
    /** Keeps what was made of the decal. */
    const letGo = ({ decal, next }: Drag, event: PointerEvent) => {
      const hit = stage.aim.pick(...place(event));
      useDesk.setState({ decalNote: undefined });
      const id = decal?.id ?? desk().decal;
      // It is shown as it was let go until the scene says so.
      if (next && id) work.current.change?.(id, next);
      else stage.decals.drag(undefined);
      if (!next && hit && decal) work.current.put?.(decal.id, { ...hit, at: place(event) });
    };
    const click = (event: PointerEvent, button: number) => {
      const at = place(event);
      if (button === 2 && !event.shiftKey) {
        const behind = stage.aim.pickAll(...at).map((hit) => hit.uid);
        useDesk.setState({
          behind: behind.length ? { uids: behind, x: event.clientX, y: event.clientY } : undefined,
        });
        return;
      }
      const hit = stage.aim.pick(...at);
      if (desk().pointing && told.current) {
        const under = hit ?? stage.aim.pickFloor(...at);
        told.current(under && { ...under, at });
        return;
      }
      const more = event.ctrlKey || event.metaKey || event.shiftKey;
      if (desk().pickFaces) {
        if (hit) desk().chooseFace({ uid: hit.uid, face: hit.face }, more);
        else if (!more) desk().choose([]);
        return;
      }
      const uid = hit?.uid;
      useDesk.setState({ decal: hit && stage.decals.at(hit)?.id });
      if (!more) desk().choose(uid ? [uid] : []);
      else if (uid) desk().toggle([uid]);
    };
    canvas.addEventListener(
      "pointerup",
      (event) => {
        const ended = drag;
        drag = undefined;
        if (!ended) return;
        if (!ended.moved) {
          if (ended.button !== 1 && !ended.grip) click(event, ended.button);
        } else if (ended.grip || ended.decal) letGo(ended, event);
        else if (ended.turnsLight) turnLight.current((event.clientX - ended.x) * LIGHT_PER_PIXEL, true);
      },
      options,
    );
    /** Escape takes back what is under way. */
    window.addEventListener(
      "keydown",
      (event) => {
        if (event.key !== "Escape" || !(drag?.grip || drag?.decal)) return;
        drag = undefined;
        stage.decals.drag(undefined);
        useDesk.setState({ decalNote: undefined });
        event.stopPropagation();
      },
      { ...options, capture: true },
    );
    canvas.addEventListener("pointerleave", () => useDesk.setState({ hovered: undefined }), options);
    canvas.addEventListener("contextmenu", (event) => event.preventDefault(), options);
    canvas.addEventListener(
      "dblclick",
      (event) => {
        const hit = stage.aim.pick(...place(event));
        const view = desk().view;
        if (!hit || !view) return;
        const arm = view.position.clone().sub(view.target).multiplyScalar(0.6);
        useDesk.setState({ view: { ...view, target: hit.point, position: hit.point.clone().add(arm) } });
      },
      options,
    );
    canvas.addEventListener(
      "wheel",
      (event) => {
        event.preventDefault();
        const view = desk().view;
        if (!view) return;
        const factor = Math.exp(Math.max(-1, Math.min(1, event.deltaY * 0.0012)));
        useDesk.setState({ view: zoomed(view, factor, place(event), stage.aspect) });
      },
      { ...options, passive: false },
    );
    return () => {
      stop.abort();
      cancelAnimationFrame(hoverFrame);
    };
  }, [ref, stage, turnLight]);
}

const sizeOf = ({ width, height }: Decal) => `${lengthNumber(width)} x ${length(height)}`;

const cursorOf = (grip: Grip | undefined) =>
  grip ? (grip.kind === "turn" ? "grab" : grip.x === grip.y ? "nesw-resize" : "nwse-resize") : "";
