import { Crosshair, Maximize } from "lucide-react";
import { memo, Suspense, useEffect, useRef, useState } from "react";
import type { AssemblyActions } from "../api/assembly";
import type { Edit, Model, Standing, StillLine } from "../api/client";
import { cameraOf, type SixView, sameView, viewOf } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { lightingOf } from "../state/lighting";
import { addShot, shotsInOrder } from "../state/shots";
import { Button } from "../ui/controls";
import { Hint } from "../ui/Hint";
import { later } from "../ui/later";
import { SixViews } from "../viewport/SixViews";
import type { Stage } from "../viewport/stage";
import { Viewport } from "../viewport/Viewport";
import * as t from "../words/texts/desk/Mat";
import { cropShot } from "./cropping";
import { GuideLines } from "./GuideLines";
import { LampBar } from "./LampBar";
import { useLampFrames } from "./lamp";
import { dropDecal, pointLamp } from "./pointing";
import { ReferenceBar, ReferencePicture, ReferenceWipe } from "./Reference";
import { RegionDrag, TracedPicture } from "./TracedPicture";

const BehindMenu = later(() => import("./BehindMenu"), "BehindMenu");
const Beside = later(() => import("./Beside"), "Beside");
const BesideLighting = later(() => import("./Beside"), "BesideLighting");
const BesideShot = later(() => import("./Beside"), "BesideShot");

interface Props {
  reviewId: string;
  name: string;
  stage: Stage | undefined;
  model: Model;
  standing: Standing;
  shotId: string;
  stills: StillLine[];
  edit: (change: Edit) => void;
  placeModel: AssemblyActions["place"];
  onStage: (stage: Stage | undefined) => void;
  onLook: (view: SixView) => void;
  onFit: (chosenOnly: boolean) => void;
}

const MARGIN = 15;
const POINTING = {
  highlight: t.clickWhereTheHighlight,
  shadow: t.clickWhereTheShadow,
  shine: t.clickTheEdgeOr,
  decal: t.clickWhereTheDecal,
  focus: t.clickWhatShallBe,
  grey: t.clickSomethingThatIs,
  down: t.clickTheFaceThat,
  floor: t.clickThePointAt,
};

/** The picture in its neutral grey mat, with crop ticks at its corners. */
export const Mat = memo(function Mat({
  reviewId,
  name,
  stage,
  model,
  standing,
  shotId,
  stills,
  edit,
  placeModel,
  onStage,
  onLook,
  onFit,
}: Props) {
  const shot = standing.scene.shots[shotId]!;
  const area = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState({ width: 0, height: 0 });
  const view = useDesk((state) => state.view);
  const shownStill = stills.find((still) => still.id === useDesk.getState().shownStill);
  const shownId = useDesk((state) => state.shownStill);
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setRoom(entry!.contentRect));
    watch.observe(area.current!);
    return () => watch.disconnect();
  }, []);
  const still = shownId === undefined ? undefined : shownStill;
  const aspect = still ? still.width / still.height : (shot.width ?? 1280) / (shot.height ?? 960);
  const { looks = {}, look = "standard" } = standing.scene;
  const wanted = useDesk((state) => state.beside);
  const wantedLighting = useDesk((state) => state.besideLighting);
  const { id: litNow, lighting } = lightingOf(standing, shotId);
  const otherLighting =
    !still && wantedLighting !== litNow && wantedLighting
      ? standing.scene.lightings[wantedLighting]
      : undefined;
  const otherLook = !otherLighting && !still && wanted && wanted !== look ? looks[wanted] : undefined;
  const reference = useDesk((state) => state.reference);
  const wantedShot = useDesk((state) => state.besideShot);
  const otherShot =
    !still && wantedShot && wantedShot !== shotId ? standing.scene.shots[wantedShot] : undefined;
  const other = otherShot ?? otherLighting ?? otherLook;
  const pinned = !still && !other && reference?.way === "beside" ? reference : undefined;
  const beside = other ?? pinned;
  const widest = (across: number, down: number) =>
    Math.min(
      (room.width - (across + 1) * MARGIN) / across,
      ((room.height - (down + 1) * MARGIN) / down) * aspect,
    );
  // Two pictures lie side by side or one over the other, as they are larger.
  const stacked = beside !== undefined && widest(1, 2) > widest(2, 1);
  const width = Math.max(0, beside ? Math.max(widest(1, 2), widest(2, 1)) : widest(1, 1));
  const shown = { width, height: width / aspect };
  const lamp = useDesk((state) => state.lamp);
  const viewKey = useLampFrames({ reviewId, standing, shotId, shown });
  const frame = useDesk((state) => state.frame);
  const inset = useDesk((state) => state.inset);
  const behind = useDesk((state) => state.behind);
  const pickFaces = useDesk((state) => state.pickFaces);
  const pointing = useDesk((state) => state.pointing);
  const cropping = useDesk((state) => state.cropping);
  const covers = lamp && !still && !inset && frame?.viewKey === viewKey && frame.region === undefined;
  const moved = view && !sameView(view, shot.camera);
  const place = shotsInOrder(standing.scene.shots).indexOf(shotId) + 1;
  const means = { reviewId, model, standing, shotId, stage, edit, place: placeModel };
  return (
    <div className="flex h-full flex-col bg-mat">
      <div className="flex min-h-[76px] shrink-0 items-start justify-between px-4 pt-3.5 text-[12px]">
        {still ? (
          <span>
            <b className="font-semibold">{t.still}</b> · {still.width} x {still.height}, {still.quality}
          </span>
        ) : (
          <span>
            <b className="font-semibold">{moved ? t.freeView : `${place} ${shot.name}`}</b>
            {!moved && shot.locked && t.locked}
            {view?.parallel && t.parallel}
            {pointing && (
              <span className="mt-1.5 flex items-center gap-1.5">
                <b className="font-semibold text-mark">{POINTING[pointing]}</b>
                <Button onClick={() => useDesk.setState({ pointing: undefined })}>{t.cancel}</Button>
              </span>
            )}
            {cropping && (
              <span className="mt-1.5 flex items-center gap-1.5">
                <b className="font-semibold text-mark">{t.dragAFrameTo}</b>
                <Button onClick={() => useDesk.setState({ cropping: false })}>{t.cancel}</Button>
              </span>
            )}
            {pickFaces && (
              <span className="mt-1.5 flex items-center gap-1.5">
                <b className="font-semibold text-mark">{t.aClickSelectsA}</b>
                <Hint text={t.selectPartsAgain} keys="F">
                  <Button onClick={() => useDesk.setState({ pickFaces: false, faces: [] })}>
                    {t.partsAgain}
                  </Button>
                </Hint>
              </span>
            )}
            {moved && (
              <span className="mt-1.5 flex gap-1.5">
                <Hint text={t.showWhatTheShot} keys="D">
                  <Button onClick={() => useDesk.setState({ view: viewOf(shot.camera) })}>
                    {t.backToTheShot}
                  </Button>
                </Hint>
                {!shot.locked && (
                  <Button
                    onClick={() =>
                      edit({ kind: "set_shot", id: shotId, shot: { ...shot, camera: cameraOf(view) } })
                    }
                  >
                    {t.updateShot}
                  </Button>
                )}
                <Hint text={t.keepThisViewAs} keys="V">
                  <Button onClick={() => addShot(standing, shotId, view, edit)}>{t.saveAsAShot}</Button>
                </Hint>
              </span>
            )}
          </span>
        )}
        {!still && <ViewControls onLook={onLook} onFit={onFit} />}
      </div>
      <div
        ref={area}
        className={`flex min-h-0 flex-1 items-center justify-center gap-[15px] ${stacked ? "flex-col" : ""}`}
      >
        <div className="relative isolate shrink-0 shadow-[0_0_0_1px_#0002]" style={shown}>
          <CropTicks />
          <div className={still ? "invisible" : ""}>
            <Viewport
              {...{ reviewId, model, standing, edit, shotId, onStage }}
              traced={covers}
              onDecal={(id, hit) => dropDecal(means, id, hit)}
              onPoint={(hit) => pointLamp(means, hit)}
            />
          </div>
          {lamp && !still && <TracedPicture viewKey={viewKey} beneath={covers} />}
          {(lamp || cropping) && !still && (
            <RegionDrag onCrop={(region) => cropShot(standing, shotId, region, edit)} />
          )}
          {still && <StillPicture still={still} />}
          {!still && <GuideLines />}
          {!still && reference?.way === "wipe" && <ReferenceWipe reference={reference} />}
          <Suspense>{behind && <BehindMenu {...{ model, behind }} />}</Suspense>
          {other && (
            <LookTag name={otherShot ? shot.name : otherLighting ? lighting.name : looks[look]?.name} />
          )}
        </div>
        {beside && (
          <div className="relative isolate shrink-0 shadow-[0_0_0_1px_#0002]" style={shown}>
            <Suspense>
              {pinned ? (
                <ReferencePicture reference={pinned} />
              ) : otherShot ? (
                <BesideShot {...{ reviewId, model, standing, shown }} other={wantedShot!} />
              ) : otherLighting ? (
                <BesideLighting
                  {...{ reviewId, model, standing, shotId, shown }}
                  lighting={wantedLighting!}
                />
              ) : (
                <Beside {...{ reviewId, model, standing, shotId, shown }} look={wanted!} />
              )}
            </Suspense>
            <LookTag name={beside.name} />
          </div>
        )}
      </div>
      <div className="flex min-h-10 shrink-0 flex-wrap items-center justify-end gap-x-3 gap-y-1.5 px-4 py-1.5 text-[12px]">
        {/* Asks for no room of its own: what is rested on must not move the picture. */}
        <span className="min-w-0 flex-1 basis-0 truncate">
          <Hovered model={model} standing={standing} />
        </span>
        {!still && <ReferenceBar />}
        {!still && <LampBar {...{ reviewId, name, stage, shotId, shot }} />}
      </div>
    </div>
  );
});

function StillPicture({ still }: { still: StillLine }) {
  if (!still.version)
    return (
      <div className="absolute inset-0 grid place-items-center bg-sheet text-ink-2">
        {still.state === "queued" ? t.waitingForItsTurn : t.theFirstSamplesAre}
      </div>
    );
  return (
    <img
      alt={t.still2(still.name)}
      className="absolute inset-0 h-full w-full object-contain"
      src={`/api/stills/${still.id}/preview?v=${still.version}`}
    />
  );
}

function ViewControls({
  onLook,
  onFit,
}: {
  onLook: (view: SixView) => void;
  onFit: (chosenOnly: boolean) => void;
}) {
  const parallel = useDesk((state) => state.view?.parallel);
  const button =
    "grid h-6 w-6 cursor-pointer place-items-center border border-[#8888] bg-sheet/90 text-ink-2 hover:bg-ink hover:text-white";
  return (
    <div className="flex items-start gap-2">
      <div className="flex flex-col gap-px">
        <Hint text={t.showEverythingInView} keys="W">
          <button
            type="button"
            aria-label={t.showEverythingInView}
            className={button}
            onClick={() => onFit(false)}
          >
            <Maximize size={12} />
          </button>
        </Hint>
        <Hint text={t.zoomToTheSelection} keys="C">
          <button
            type="button"
            aria-label={t.zoomToTheSelection}
            className={button}
            onClick={() => onFit(true)}
          >
            <Crosshair size={12} />
          </button>
        </Hint>
        <Hint text={parallel ? t.parallelNowClickFor : t.perspectiveNowClickFor} keys="P">
          <button
            type="button"
            aria-label={t.perspectiveOrParallel}
            aria-pressed={parallel}
            className={button}
            onClick={() => {
              const view = useDesk.getState().view;
              if (view) useDesk.setState({ view: { ...view, parallel: !view.parallel } });
            }}
          >
            <svg width="13" height="13" viewBox="0 0 13 13" fill="none" stroke="currentColor">
              <path
                d={
                  parallel
                    ? "M2.5 1.5v10M10.5 1.5v10M2.5 4h8M2.5 9h8"
                    : "M1.5 1.5l3 10M11.5 1.5l-3 10M2.4 4h8.2M3.8 9h5.4"
                }
              />
            </svg>
          </button>
        </Hint>
      </div>
      <SixViews onLook={onLook} />
    </div>
  );
}

/** Short lines outside the four corners, as on a photograph to be trimmed. */
function CropTicks() {
  const corners = [
    "left-0 top-0 -translate-x-full",
    "right-0 top-0 translate-x-full",
    "left-0 bottom-0 -translate-x-full",
    "right-0 bottom-0 translate-x-full",
  ];
  return (
    <>
      {corners.map((at) => (
        <span
          key={at}
          aria-hidden="true"
          className={`pointer-events-none absolute h-px w-[7px] bg-ink/60 ${at} ${at.includes("left") ? "-ml-[3px]" : "ml-[3px]"}`}
        />
      ))}
      {corners.map((at) => (
        <span
          key={`v${at}`}
          aria-hidden="true"
          className={`pointer-events-none absolute h-[7px] w-px bg-ink/60 ${at.includes("left") ? "left-0" : "right-0"} ${at.includes("top") ? "-top-[10px]" : "-bottom-[10px]"}`}
        />
      ))}
    </>
  );
}

function Hovered({ model, standing }: { model: Model; standing: Standing }) {
  const uid = useDesk((state) => state.hovered);
  const note = useDesk((state) => state.decalNote);
  if (note) return <b className="font-semibold text-mark">{note}</b>;
  const node = uid ? model.nodes.find((n) => n.uid === uid) : undefined;
  if (!node) return null;
  const worn = standing.worn[node.uid];
  const same = model.nodes.filter((n) => n.definition === node.definition).length;
  const name = worn && standing.appearances[worn.appearance]?.name;
  return (
    <span>
      <b className="font-semibold">{node.name}</b>
      <span className="font-narrow">
        {same > 1 && t.no1Of(same)} · {worn?.why === "part" ? name : worn?.why}
      </span>
    </span>
  );
}

/** Says which of both looks or lightings a picture shows. */
function LookTag({ name }: { name?: string }) {
  return (
    <span className="pointer-events-none absolute top-2 left-2 rounded-sm bg-sheet/85 px-2 py-0.5 text-[12px] font-semibold">
      {name}
    </span>
  );
}
