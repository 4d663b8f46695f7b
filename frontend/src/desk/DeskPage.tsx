import { useQueryClient } from "@tanstack/react-query";
import { Suspense, useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Vector3 } from "three";
import { useLocation } from "wouter";
import { useAssembly } from "../api/assembly";
import type { Model, Standing, Stills } from "../api/client";
import { useLiveReview } from "../api/events";
import { useEditing, useReview, useStanding, useStills } from "../api/queries";
import { followAddress } from "../state/address";
import { alongDirection, fitted, SIX_VIEWS, type SixView, type View } from "../state/camera";
import { clearDesk, type Sheet, useDesk } from "../state/deskStore";
import { lightingOf } from "../state/lighting";
import { partActions } from "../state/partActions";
import { useShotId } from "../state/shots";
import { fetchTheRest, later } from "../ui/later";
import { oneTabStop } from "../ui/oneTabStop";
import { PageProblem } from "../ui/PageProblem";
import type { Stage } from "../viewport/stage";
import { useLength } from "../words/length";
import { loadTypefaces } from "../words/scripts";
import * as t from "../words/texts/desk/DeskPage";
import { commandsOf } from "./commands";
import { type Command, commandFor } from "./keys";
import { savePicture } from "./LampBar";
import { Mat } from "./Mat";
import { RunsBar } from "./RunsBar";
import { SideColumn } from "./SideColumn";
import { fold, showPictureAlone } from "./sides";
import { TitleBlock } from "./TitleBlock";
import { TopLine } from "./TopLine";
import { useTakeStill } from "./takingStills";
import { useFinished } from "./useFinished";

const PartsSheet = later(() => import("../schedules/parts/PartsSheet"), "PartsSheet");
const PartsDrawer = later(() => import("../drawer/PartsDrawer"), "PartsDrawer");
const LightDrawer = later(() => import("../drawer/LightDrawer"), "LightDrawer");
const ShotDrawer = later(() => import("../drawer/ShotDrawer"), "ShotDrawer");
const AppearancesSheet = later(() => import("../schedules/appearances/AppearancesSheet"), "AppearancesSheet");
const LightsSheet = later(() => import("../schedules/lights/LightsSheet"), "LightsSheet");
const ShotsSheet = later(() => import("../schedules/shots/ShotsSheet"), "ShotsSheet");
const FirstCoatDialog = later(() => import("../schedules/appearances/FirstCoatDialog"), "FirstCoatDialog");
const DragChip = later(() => import("./DragChip"), "DragChip");
const Guide = later(() => import("./Guide"), "Guide");
const DropFile = later(() => import("./DropFile"), "DropFile");
const CommandBox = later(() => import("./CommandBox"), "CommandBox");
const KeysDialog = later(() => import("./CommandBox"), "KeysDialog");

/** The main screen: schedules, picture, drawer, title block. */
export function DeskPage({ reviewId }: { reviewId: string }) {
  const review = useReview(reviewId);
  const standing = useStanding(reviewId);
  useLiveReview(reviewId);
  useEffect(() => {
    clearDesk();
    const leave = followAddress();
    return () => {
      leave();
      clearDesk();
    };
  }, []);
  useEffect(() => {
    document.title = review.data ? t.usualLamp(review.data.name) : t.usualLamp2;
    if (review.data)
      loadTypefaces([review.data.name, ...review.data.model.nodes.map((node) => node.name)].join(" "));
  }, [review.data]);
  const together = useTogether(reviewId, review.data?.model, standing.data);
  const problem = review.error ?? standing.error;
  if (problem) return <PageProblem words={problem.message} />;
  if (!together) return <div className="grid h-full place-items-center text-ink-2">{t.opening}</div>;
  return <Desk reviewId={reviewId} name={review.data?.name ?? ""} {...together} />;
}

/**
 * A model and a standing that belong together. After an edit that rearranges the model, the one before stays until the
 * new model has been fetched; a model that did not change stays the same object, so that nothing is loaded again.
 */
function useTogether(reviewId: string, model?: Model, standing?: Standing) {
  const client = useQueryClient();
  const [pair, setPair] = useState<{ model: Model; standing: Standing }>();
  const arrangement = standing?.arrangement;
  useEffect(() => {
    if (model && arrangement !== undefined && model.arrangement !== arrangement)
      client.invalidateQueries({ queryKey: ["review", reviewId] });
  }, [client, reviewId, model, arrangement]);
  if (!model || !standing || model.arrangement !== arrangement) return pair;
  const kept = pair?.model.arrangement === model.arrangement ? pair.model : model;
  if (pair?.model === kept && pair.standing === standing) return pair;
  // While rendering: an effect would come after the next key or click, which would build on what was before.
  const next = { model: kept, standing };
  setPair(next);
  return next;
}

const NONE: Stills["stills"] = [];

interface DeskProps {
  reviewId: string;
  name: string;
  model: Model;
  standing: Standing;
}

function Desk({ reviewId, name, model, standing }: DeskProps) {
  const shotId = useShotId(standing);
  const stills = useStills(reviewId).data ?? NONE;
  const { edit, undo, redo, saving, failed } = useEditing(reviewId);
  const sheet = useDesk((state) => state.sheet);
  const [stage, setStage] = useState<Stage>();
  /** What speaks of lengths is made anew in another unit. */
  const unit = useLength((state) => state.unit);
  const firstCoat = useDesk((state) => state.firstCoat);
  const [, go] = useLocation();
  const [keysOpen, setKeysOpen] = useState(false);
  const [boxOpen, setBoxOpen] = useState(false);
  const [typedAhead, setTypedAhead] = useState("");
  const assembly = useAssembly(reviewId);
  const settled = useDesk((state) => state.settled);
  useEffect(() => {
    if (settled) fetchTheRest();
  }, [settled]);
  useFinished(stills);
  const take = useTakeStill(reviewId, standing, shotId);
  const actions = useMemo(() => partActions(model, standing, edit), [model, standing, edit]);

  const fit = useCallback(
    (chosenOnly: boolean) => {
      const { view, chosen } = useDesk.getState();
      if (view && stage)
        useDesk.setState({
          view: fitted(view, stage.points(chosenOnly && chosen.size ? chosen : undefined), stage.aspect),
        });
    },
    [stage],
  );
  const lookAlong = useCallback(
    (direction: Vector3, change?: Partial<View>) => {
      const { view } = useDesk.getState();
      if (view && stage) {
        const turned = alongDirection({ ...view, ...change }, direction);
        useDesk.setState({ view: fitted(turned, stage.points(), stage.aspect) });
      }
    },
    [stage],
  );
  const look = useCallback((side: SixView) => lookAlong(SIX_VIEWS[side]), [lookAlong]);
  const commands = useMemo(
    () =>
      commandsOf({
        model,
        standing,
        shotId,
        edit,
        actions,
        undo,
        redo,
        fit,
        look,
        lookAlong,
        faceNormal: () => stage?.aim.faceNormal(useDesk.getState().faces[0]),
        take: () => take(),
        keep: () => savePicture(name, stage, standing?.scene.shots[shotId]?.width ?? 1280),
        showKeys: () => setKeysOpen(true),
        showBox: () => {
          setTypedAhead("");
          setBoxOpen(true);
        },
        showStills: () => go(`/reviews/${reviewId}/stills`),
        foldLeft: () => fold("left"),
        foldRight: () => fold("right"),
        pictureAlone: showPictureAlone,
        firstCoat: () => useDesk.setState({ firstCoat: true }),
      }),
    [
      model,
      standing,
      shotId,
      edit,
      actions,
      undo,
      redo,
      fit,
      look,
      lookAlong,
      take,
      name,
      stage,
      go,
      reviewId,
    ],
  );
  useKeys(commands);

  const parts = model.nodes.filter((node) => node.definition).length;
  const lights = 2 + Object.keys(lightingOf(standing, shotId).lighting.lamps).length;
  const worn = useMemo(
    () => new Set(Object.values(standing.worn).map((one) => one.appearance)).size,
    [standing.worn],
  );
  return (
    <div className="flex h-full flex-col">
      <TopLine {...{ reviewId, name, model, standing, shotId, assembly, edit, undo, redo, saving, failed }} />
      <RunsBar {...{ reviewId, assembly }} />
      <div className="flex min-h-0 flex-1">
        <SideColumn side="left" className="flex flex-col border-r border-rule-strong">
          <SheetTabs
            counts={{ parts, appearances: worn, lights, shots: Object.keys(standing.scene.shots).length }}
          />
          <Suspense key={unit}>
            {sheet === "parts" && <PartsSheet {...{ reviewId, model, standing, actions, edit }} />}
            {sheet === "appearances" && <AppearancesSheet {...{ reviewId, model, standing, edit }} />}
            {sheet === "lights" && <LightsSheet {...{ reviewId, standing, shotId, edit }} />}
            {sheet === "shots" && <ShotsSheet {...{ reviewId, standing, shotId, stills, edit }} />}
          </Suspense>
        </SideColumn>
        <div className="min-w-[320px] flex-1">
          <Mat
            {...{
              reviewId,
              name,
              model,
              standing,
              shotId,
              stills,
              edit,
              stage,
              placeModel: assembly.place,
              onStage: setStage,
              onLook: look,
              onFit: fit,
            }}
          />
        </div>
        <SideColumn side="right" className="border-l border-rule-strong">
          <aside
            key={unit}
            className="flex h-full flex-col gap-[11px] overflow-y-auto px-3.5 py-[13px]"
            aria-label={t.drawer}
          >
            <Suspense>
              {(sheet === "parts" || sheet === "appearances") && (
                <PartsDrawer {...{ reviewId, shotId, model, standing, actions, assembly, edit }} />
              )}
              {sheet === "lights" && <LightDrawer {...{ reviewId, standing, shotId, edit }} />}
              {sheet === "shots" && <ShotDrawer {...{ reviewId, standing, shotId, stills, edit }} />}
            </Suspense>
          </aside>
        </SideColumn>
      </div>
      <TitleBlock {...{ reviewId, model, standing, shotId, stills }} />
      {settled && (
        <Suspense>
          <Guide {...{ standing, shotId, stills }} />
          <DragChip {...{ reviewId, model, standing, stage, edit }} />
          <DropFile {...{ reviewId, standing }} />
        </Suspense>
      )}
      {boxOpen && (
        <Suspense fallback={<TypedAhead onType={setTypedAhead} />}>
          <CommandBox
            {...{ commands, model, standing, edit, typedAhead }}
            onClose={() => setBoxOpen(false)}
          />
        </Suspense>
      )}
      <Suspense>
        {firstCoat && <FirstCoatDialog {...{ reviewId, standing, edit }} />}
        {keysOpen && <KeysDialog commands={commands} open onOpen={setKeysOpen} />}
      </Suspense>
    </div>
  );
}

/**
 * Lets keys run commands. The same listeners stay whatever is rendered: one that came while a key is being heard would
 * not hear it. They are there with the page itself, so that a key acts on what is seen as soon as it is seen.
 */
function useKeys(commands: Command[]) {
  const now = useRef(commands);
  useLayoutEffect(() => {
    now.current = commands;
  }, [commands]);
  useLayoutEffect(() => {
    const run = (event: KeyboardEvent, command: Command | undefined) => {
      if (!command) return;
      event.preventDefault();
      command.run();
    };
    // From any field, too, before it takes the key for itself.
    const onFind = (event: KeyboardEvent) => {
      const command = commandFor(now.current, event);
      if (command?.keys !== "Ctrl K" || (event.target as HTMLElement).closest("[role=dialog]")) return;
      event.stopPropagation();
      run(event, command);
    };
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input:not([type=checkbox]), textarea, [role=dialog]")) return;
      // A list takes letters for itself and a box the space bar, but undo goes on.
      if (target.closest("select, input") && !event.ctrlKey && !event.metaKey) return;
      run(event, commandFor(now.current, event));
    };
    window.addEventListener("keydown", onFind, true);
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener("keydown", onFind, true);
      window.removeEventListener("keydown", onKey);
    };
  }, []);
}

/** Takes the letters that are typed before the command box is there; as keys they would act on the selection. */
function TypedAhead({ onType }: { onType: (words: string) => void }) {
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: it stands for the box that was just asked for
      autoFocus
      aria-label={t.findAnyAction}
      className="fixed opacity-0"
      onChange={(event) => onType(event.target.value)}
    />
  );
}

function SheetTabs({ counts }: { counts: Record<Sheet, number> }) {
  const sheet = useDesk((state) => state.sheet);
  return (
    <div
      className="flex gap-5 border-b border-rule px-3.5 pt-[11px]"
      ref={oneTabStop}
      role="tablist"
      aria-label={t.schedules}
      data-guide="sheets"
    >
      {(["parts", "appearances", "lights", "shots"] as const).map((name) => (
        <button
          key={name}
          type="button"
          role="tab"
          aria-selected={sheet === name}
          data-row={name}
          className={`cursor-pointer pb-2 capitalize ${sheet === name ? "font-semibold shadow-[inset_0_-2px_0_var(--color-ink)]" : "font-medium text-ink-2 hover:text-ink"}`}
          onClick={() => useDesk.setState({ sheet: name })}
        >
          {name} <span className="figures text-ink-3">{counts[name]}</span>
        </button>
      ))}
    </div>
  );
}
