import { memo, useEffect, useMemo, useRef, useState } from "react";
import { Vector3 } from "three";
import type { Edit, Model, Standing } from "../api/client";
import { FILM_WIDTH } from "../api/generated/facts";
import { axes, turned, type View, viewOf } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { lightingOf } from "../state/lighting";
import { seenIn } from "../state/shots";
import { Stage } from "./stage";
import { useHandles } from "./useHandles";

interface Props {
  model: Model;
  standing: Standing;
  /** Without it nothing can be moved here. */
  edit?: (change: Edit) => void;
  shotId: string;
  /** The traced picture lies beneath and takes the place of the shaded one. */
  traced: boolean;
  onStage: (stage: Stage | undefined) => void;
  /** A view of its own, that nobody can change here; the desk's if there is none. */
  from?: View;
  /** Another lighting than that in which something is being dragged. */
  apart?: boolean;
  /** A click while the selected lamp is being pointed: where it fell, if on anything. */
  onPoint?: (hit: Pointed | undefined) => void;
  /** A decal was dragged to a spot of a part. */
  onDecal?: (id: string, hit: Pointed) => void;
}

export interface Pointed {
  point: Vector3;
  normal: Vector3;
  /** The part and its face; none on the floor. */
  uid?: string;
  face?: number;
}

const TURN_PER_PIXEL = 0.0065;
/** Degrees that the surroundings rotate. */
const LIGHT_PER_PIXEL = 0.4;

/** The picture on the desk, framed like the shot. */
export const Viewport = memo(function Viewport({
  model,
  standing,
  edit,
  shotId,
  traced,
  onStage,
  from,
  apart,
  onPoint,
  onDecal,
}: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [stage, setStage] = useState<Stage>();
  /** The arrangement that is loaded. */
  const [ready, setReady] = useState<string>();
  const [problem, setProblem] = useState<string>();
  const chosen = useDesk((state) => state.chosen);
  const faces = useDesk((state) => state.faces);
  const faded = useDesk((state) => state.faded);
  const lit = useDesk((state) => state.lit);
  const showsDefects = useDesk((state) => state.showsDefects);
  const hovered = useDesk((state) => state.hovered);
  const onDesk = useDesk((state) => state.view);
  const view = from ?? onDesk;
  const previews = useDesk((state) => state.previews);
  const lightingPreview = useDesk((state) => state.lightingPreview);
  const sheet = useDesk((state) => state.sheet);
  const light = useDesk((state) => state.light);
  const shot = standing.scene.shots[shotId]!;

  useEffect(() => {
    let made: Stage;
    try {
      made = new Stage(canvas.current!);
    } catch {
      setProblem(
        "This browser cannot draw in 3D (WebGL is off). Turn it on, or take a still: tracing needs no WebGL.",
      );
      return;
    }
    setStage(made);
    onStage(made);
    const watch = new ResizeObserver(([entry]) =>
      made.resize(entry!.contentRect.width, entry!.contentRect.height),
    );
    watch.observe(canvas.current!);
    return () => {
      watch.disconnect();
      onStage(undefined);
      made.dispose();
    };
  }, [onStage]);
  useEffect(() => {
    if (!stage) return;
    let passed = false;
    let telling = 0;
    stage.onRenewed = () => {
      clearTimeout(telling);
      telling = window.setTimeout(() => useDesk.setState({ geometry: stage.memory }), 300);
    };
    stage.load(model).then(
      () => {
        if (passed) return;
        setReady(model.arrangement);
        useDesk.setState({ geometry: stage.memory });
      },
      () => setProblem("Some meshes could not be loaded. Reload the page to try again."),
    );
    return () => {
      passed = true;
      clearTimeout(telling);
    };
  }, [stage, model]);

  useEffect(() => {
    if (!useDesk.getState().view) useDesk.setState({ view: viewOf(shot.camera) });
  }, [shot.camera]);
  const seen = useMemo(() => seenIn(standing, shotId), [standing, shotId]);
  useEffect(() => {
    if (stage && ready) stage.dress(seen, previews);
  }, [stage, ready, seen, previews]);
  const { id: lightingId, lighting: stored } = lightingOf(standing, shotId);
  const lighting = useMemo(
    () => (apart ? stored : { ...stored, ...lightingPreview }),
    [stored, lightingPreview, apart],
  );
  useEffect(() => {
    if (!ready) return;
    stage
      ?.light(lighting, {
        exposure: shot.exposure,
        tone: shot.tone,
        contrast: shot.contrast,
        saturation: shot.saturation,
        white: standing.whites[shotId]!,
      })
      .catch(() => setProblem("The light could not be loaded."));
  }, [
    stage,
    ready,
    lighting,
    shot.exposure,
    shot.tone,
    shot.contrast,
    shot.saturation,
    standing.whites,
    shotId,
  ]);
  useEffect(() => {
    if (ready) stage?.showLamps(sheet === "lights" ? lighting.lamps : undefined, light);
  }, [stage, ready, sheet, lighting, light]);
  useEffect(() => {
    if (view) stage?.look(view);
  }, [stage, view]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: visibility decides which outlines there are
  useEffect(() => {
    if (ready) stage?.choose(chosen, faces, faded);
  }, [stage, ready, chosen, faces, faded, standing]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a mended mesh is another mesh
  useEffect(() => {
    if (ready) stage?.showDefects(showsDefects ? chosen : new Set());
  }, [stage, ready, chosen, showsDefects, standing]);
  useEffect(() => {
    if (ready) stage?.lightUp(lit ?? new Set());
  }, [stage, ready, lit]);
  useHandles(stage, ready, model, standing, shotId, edit);
  useEffect(() => {
    if (ready) stage?.hover(hovered);
  }, [stage, ready, hovered]);
  useEffect(() => stage?.showTraced(traced), [stage, traced]);
  /** Rotates the surroundings by some degrees: shown at once, and kept when the pointer is let go. */
  const turnLight = useRef((_by: number, _keep: boolean) => undefined as undefined);
  turnLight.current = (by, keep) => {
    const turn = Math.round(((((stored.turn + by + 180) % 360) + 360) % 360) - 180);
    useDesk.setState({ lightingPreview: keep ? {} : { turn } });
    if (keep) edit?.({ kind: "set_lighting", id: lightingId, lighting: { ...stored, turn } });
  };
  const decal = useDesk((state) => state.decal);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a decal that moved has its frame elsewhere
  useEffect(() => {
    if (ready) stage?.decals.select(decal);
  }, [stage, ready, decal, standing]);
  usePointer(canvas, from ? undefined : stage, onPoint, onDecal, turnLight);

  return (
    <>
      <canvas
        ref={canvas}
        tabIndex={0}
        aria-label="Picture of the assembly. Drag to turn, right drag to move, wheel to zoom, click to select."
        data-ready={ready !== undefined}
        className="absolute inset-0 h-full w-full touch-none outline-offset-4"
      />
      {!ready && !problem && (
        <div className="absolute inset-0 grid place-items-center bg-mat/60 text-ink">
          Fetching the meshes…
        </div>
      )}
      {problem && (
        <div className="absolute inset-0 grid place-items-center bg-sheet p-8 text-center">{problem}</div>
      )}
    </>
  );
});

/** Left drag turns, right or Shift drag moves, wheel zooms at the pointer, click chooses, double-click focuses. */
function usePointer(
  ref: React.RefObject<HTMLCanvasElement | null>,
  stage: Stage | undefined,
  onPoint: Props["onPoint"],
  onDecal: Props["onDecal"],
  turnLight: React.RefObject<(by: number, keep: boolean) => undefined>,
) {
  const told = useRef(onPoint);
  told.current = onPoint;
  const dropped = useRef(onDecal);
  dropped.current = onDecal;
  useEffect(() => {
    const canvas = ref.current;
    if (!canvas || !stage) return;
    const stop = new AbortController();
    const options = { signal: stop.signal };
    const desk = () => useDesk.getState();
    let drag:
      | {
          x: number;
          y: number;
          button: number;
          moved: boolean;
          view: View;
          rotates: boolean;
          /** The decal that is dragged. */
          decal?: string;
        }
      | undefined;
    let hoverFrame = 0;

    const place = (event: MouseEvent): [number, number] => {
      const box = canvas.getBoundingClientRect();
      return [
        ((event.clientX - box.left) / box.width) * 2 - 1,
        1 - ((event.clientY - box.top) / box.height) * 2,
      ];
    };
    /** The selected decal, if it is under the pointer and may be moved. */
    const held = (at: [number, number]): string | undefined => {
      const { decal, pointing } = desk();
      if (!decal || pointing || !dropped.current) return undefined;
      const hit = stage.pick(...at);
      const under = hit && stage.decals.at(hit);
      return under?.id === decal && !under.decal.locked ? decal : undefined;
    };
    canvas.addEventListener(
      "pointerdown",
      (event) => {
        const view = desk().view;
        if (!view || stage.handling) return;
        canvas.setPointerCapture(event.pointerId);
        drag = {
          x: event.clientX,
          y: event.clientY,
          button: event.shiftKey ? 2 : event.button,
          moved: false,
          view,
          rotates: event.altKey,
          decal: event.button === 0 && !event.shiftKey ? held(place(event)) : undefined,
        };
      },
      options,
    );
    canvas.addEventListener(
      "pointermove",
      (event) => {
        if (!drag) {
          cancelAnimationFrame(hoverFrame);
          hoverFrame = requestAnimationFrame(() =>
            useDesk.setState({ hovered: stage.pick(...place(event))?.uid }),
          );
          return;
        }
        const dx = event.clientX - drag.x;
        const dy = event.clientY - drag.y;
        if (!drag.moved && Math.hypot(dx, dy) < 4) return;
        drag.moved = true;
        if (drag.decal) {
          stage.decals.drag(drag.decal, stage.pick(...place(event)));
          return;
        }
        if (drag.rotates) {
          turnLight.current(dx * LIGHT_PER_PIXEL, false);
          return;
        }
        const next =
          drag.button === 0
            ? turned(drag.view, -dx * TURN_PER_PIXEL, dy * TURN_PER_PIXEL)
            : moved(drag.view, dx / canvas.clientWidth, dy / canvas.clientWidth);
        useDesk.setState({ view: next });
      },
      options,
    );
    canvas.addEventListener(
      "pointerup",
      (event) => {
        const ended = drag;
        drag = undefined;
        if (ended?.moved && ended.decal) {
          const hit = stage.pick(...place(event));
          stage.decals.drag(undefined);
          if (hit) dropped.current?.(ended.decal, hit);
          return;
        }
        if (ended?.moved && ended.rotates)
          turnLight.current((event.clientX - ended.x) * LIGHT_PER_PIXEL, true);
        if (!ended || ended.moved || ended.button === 1) return;
        const at = place(event);
        if (ended.button === 2 && !event.shiftKey) {
          const behind = stage.pickAll(...at).map((hit) => hit.uid);
          useDesk.setState({
            behind: behind.length ? { uids: behind, x: event.clientX, y: event.clientY } : undefined,
          });
          return;
        }
        const hit = stage.pick(...at);
        if (desk().pointing && told.current) {
          const floor = stage.pickFloor(...at);
          told.current(hit ?? (floor && { point: floor, normal: new Vector3(0, 0, 1) }));
          return;
        }
        if (desk().pickFaces) {
          const more = event.ctrlKey || event.metaKey || event.shiftKey;
          if (hit) desk().chooseFace({ uid: hit.uid, face: hit.face }, more);
          else if (!more) desk().choose([]);
          return;
        }
        const uid = hit?.uid;
        useDesk.setState({ decal: hit && stage.decals.at(hit)?.id });
        if (event.ctrlKey || event.metaKey || event.shiftKey) {
          if (uid) desk().toggle([uid]);
        } else desk().choose(uid ? [uid] : []);
      },
      options,
    );
    canvas.addEventListener("pointerleave", () => useDesk.setState({ hovered: undefined }), options);
    canvas.addEventListener("contextmenu", (event) => event.preventDefault(), options);
    canvas.addEventListener(
      "dblclick",
      (event) => {
        const hit = stage.pick(...place(event));
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

/** Shift the view in the picture's plane; shares of the frame's width. */
function moved(view: View, dx: number, dy: number): View {
  const { right, up, distance } = axes(view);
  const width = (FILM_WIDTH / view.focal) * distance;
  const shift = right.multiplyScalar(-dx * width).addScaledVector(up, dy * width);
  return { ...view, position: view.position.clone().add(shift), target: view.target.clone().add(shift) };
}

/** Scale the distance, holding what lies under the pointer. */
function zoomed(view: View, factor: number, [x, y]: [number, number], aspect: number): View {
  const { right, up, distance } = axes(view);
  const half = (FILM_WIDTH / 2 / view.focal) * distance * (1 - factor);
  const shift = right.multiplyScalar(x * half).addScaledVector(up, (y * half) / aspect);
  const target = view.target.clone().add(shift);
  const arm = view.position.clone().sub(view.target).multiplyScalar(factor);
  return { ...view, target, position: target.clone().add(arm) };
}
