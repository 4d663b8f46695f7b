import { memo, useEffect, useMemo, useRef, useState } from "react";
import type { Decal, Edit, Model, Standing } from "../api/client";
import { useGround } from "../api/lighting";
import { type View, viewOf } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { floorOf, lightingOf } from "../state/lighting";
import * as t from "../words/texts/viewport/Viewport";
import { Stage } from "./stage";
import { useCut } from "./useCut";
import { useHandles } from "./useHandles";
import { type Pointed, usePointer } from "./usePointer";

interface Props {
  reviewId: string;
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
  /** A decal was dragged to a spot of a part, where it is to be put on anew. */
  onDecal?: (id: string, hit: Pointed) => void;
}

/** The picture on the desk, framed like the shot. */
export const Viewport = memo(function Viewport({
  reviewId,
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
  /** The same with what a section cuts of it. */
  const [cut, setCut] = useState<string>();
  /** Whether its light is there; nothing is drawn before. */
  const [isLit, setLit] = useState(false);
  const [problem, setProblem] = useState<string>();
  useEffect(() => {
    if (problem) useDesk.setState({ settled: true });
  }, [problem]);
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
  const { seen, staged } = useCut(reviewId, model, standing, shotId, !apart && !from);

  useEffect(() => {
    let made: Stage;
    try {
      made = new Stage(canvas.current!);
    } catch {
      setProblem(t.thisBrowserCannotDraw);
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
    stage.load(staged).then(
      () => {
        if (passed) return;
        setReady(model.arrangement);
        setCut(staged.arrangement);
        useDesk.setState({ geometry: stage.memory, settled: true });
      },
      () => setProblem(t.someMeshesCouldNot),
    );
    return () => {
      passed = true;
      clearTimeout(telling);
    };
  }, [stage, staged, model.arrangement]);

  useEffect(() => {
    if (!useDesk.getState().view) useDesk.setState({ view: viewOf(shot.camera) });
  }, [shot.camera]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a part that was cut anew wears nothing yet
  useEffect(() => {
    if (stage && ready) stage.dress(seen, previews);
  }, [stage, ready, cut, seen, previews]);
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
      .then(
        () => setLit(true),
        () => setProblem(t.theLightCouldNot),
      );
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
  const { up, height } = floorOf(standing, lightingId, lighting);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is shown casts it
  useEffect(() => {
    if (ready) stage?.lay({ up, height });
  }, [stage, ready, ...up, height]);
  useEffect(() => {
    if (ready) stage?.showLamps(sheet === "lights" ? lighting.lamps : undefined, light);
  }, [stage, ready, sheet, lighting, light]);
  useEffect(() => {
    if (view) stage?.look(view);
  }, [stage, view]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: visibility decides which outlines there are
  useEffect(() => {
    if (ready) stage?.choose(chosen, faces, faded);
  }, [stage, ready, cut, chosen, faces, faded, standing]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a mended mesh is another mesh
  useEffect(() => {
    if (ready) stage?.showDefects(showsDefects ? chosen : new Set());
  }, [stage, ready, chosen, showsDefects, standing]);
  useEffect(() => {
    if (ready) stage?.lightUp(lit ?? new Set());
  }, [stage, ready, lit]);
  const hasGround = lighting.floor && lighting.floor_finish.kind !== "plain";
  const beside = apart ? (shot.lighting ?? undefined) : undefined;
  const ground = useGround(reviewId, shotId, standing.seq, hasGround, beside).data?.ground;
  useEffect(() => {
    if (ready) stage?.showGround(hasGround ? (ground ?? undefined) : undefined);
  }, [stage, ready, hasGround, ground]);
  const showsSharp = useDesk((state) => state.showsSharp);
  const sharp = showsSharp && !from ? standing.sharp[shotId] : undefined;
  useEffect(() => {
    if (ready) stage?.showSharp(sharp, viewOf(shot.camera));
  }, [stage, ready, sharp, shot.camera]);
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
  const changeDecal = useMemo(
    () => edit && ((id: string, next: Decal) => edit({ kind: "set_decals", decals: { [id]: next } })),
    [edit],
  );
  const decalWork = { reviewId, put: onDecal, change: changeDecal };
  usePointer(canvas, from ? undefined : stage, onPoint, decalWork, turnLight);

  return (
    <>
      <canvas
        ref={canvas}
        tabIndex={0}
        aria-label={t.pictureOfTheAssembly}
        data-ready={ready !== undefined && isLit}
        className="absolute inset-0 h-full w-full touch-none outline-offset-4"
      />
      {!(ready && isLit) && !problem && (
        <div className="absolute inset-0 grid place-items-center bg-mat/60 text-ink">
          {ready ? t.fetchingTheLight : t.fetchingTheMeshes}
        </div>
      )}
      {problem && (
        <div className="absolute inset-0 grid place-items-center bg-sheet p-8 text-center">{problem}</div>
      )}
    </>
  );
});
