import { useEffect, useMemo, useRef, useState } from "react";
import { Link } from "wouter";
import type { Standing, StillLine } from "../api/client";
import { useLiveReview } from "../api/events";
import { actions, useAct, useReview, useStanding, useStills } from "../api/queries";
import { markStill, takeAgain } from "../api/stills";
import { toast } from "../api/toast";
import { Button, Mark } from "../ui/controls";
import { PageProblem } from "../ui/PageProblem";
import { TypeAhead } from "../ui/typeAhead";
import * as t from "../words/texts/stills/StillsPage";
import { Compare } from "./Compare";
import { DownloadDialog } from "./DownloadDialog";
import { MatrixDialog } from "./MatrixDialog";
import { Steps } from "./Steps";
import { StillCard } from "./StillCard";
import { StillDetails } from "./StillDetails";
import { type GroupBy, grouped, type Only, passes } from "./sorting";
import { Viewer } from "./Viewer";

const ONLY_WORDS: Record<Only, string> = { all: t.all, starred: t.starred, "out of date": t.outOfDate };

/** What the list is to screen readers, while there is something in it. */
const LIST = { role: "listbox", "aria-multiselectable": true, "aria-label": t.stills };

/** The contact sheet: all stills of a review, to compare, take again, and hand over. */
export function StillsPage({ reviewId }: { reviewId: string }) {
  const review = useReview(reviewId);
  const standing = useStanding(reviewId);
  const stills = useStills(reviewId);
  useLiveReview(reviewId);
  useEffect(() => {
    document.title = review.data ? t.stillsUsualLamp(review.data.name) : t.usualLamp;
  }, [review.data]);
  const problem = review.error ?? standing.error ?? stills.error;
  if (problem) return <PageProblem words={problem.message} />;
  if (!review.data || !standing.data || !stills.data)
    return <div className="grid h-full place-items-center text-ink-2">{t.opening}</div>;
  return <Sheet reviewId={reviewId} name={review.data.name} standing={standing.data} stills={stills.data} />;
}

interface SheetProps {
  reviewId: string;
  name: string;
  standing: Standing;
  stills: StillLine[];
}

function Sheet({ reviewId, name, standing, stills }: SheetProps) {
  const [filter, setFilter] = useState("");
  const [by, setBy] = useState<GroupBy>("shot");
  const [only, setOnly] = useState<Only>("all");
  const [viewed, setViewed] = useState<string>();
  const [dialog, setDialog] = useState<"matrix" | "download">();
  const list = useRef<HTMLDivElement>(null);
  const act = useAct(["stills", reviewId]);
  const shown = stills.filter((still) => passes(standing, still, filter, only));
  const groups = useMemo(() => grouped(standing, shown, by), [standing, shown, by]);
  const order = useMemo(() => groups.flatMap((group) => group.stills), [groups]);
  const selection = useSelection(order);
  const picked = order.filter((still) => selection.ids.has(still.id));
  const stale = stills.filter(
    (still) => !still.current && still.state === "done" && standing.scene.shots[still.shot_id],
  );
  const counts = {
    all: stills.length,
    starred: stills.filter((still) => still.starred).length,
    "out of date": stills.filter((still) => !still.current && still.state === "done").length,
  };
  const again = (some: StillLine[]) => {
    act(async () => {
      for (const still of some) await takeAgain(reviewId, still);
    }).then(
      () => toast(t.queuedAgain(some.length, some.length === 1 ? t.stillIs : t.stillsAre)),
      () => undefined,
    );
  };
  const remove = async (some: StillLine[]) => {
    await act(() => Promise.all(some.map((still) => actions.removeStill(still.id))));
    toast(t.removed(some.length, some.length === 1 ? t.still : t.stills2), {
      action: {
        label: t.undo,
        onClick: () => act(() => Promise.all(some.map((still) => actions.restoreStill(still.id)))),
      },
    });
  };
  const star = (some: StillLine[]) => {
    const starred = some.some((still) => !still.starred);
    return act(() => Promise.all(some.map((still) => markStill(still.id, { starred }))));
  };
  const onKey = (event: React.KeyboardEvent, still: StillLine) => {
    if (event.target !== event.currentTarget) return;
    const some = selection.ids.has(still.id) ? picked : [still];
    if (event.key === "Enter") setViewed(still.id);
    else if (event.key === "Delete" && some.every(ended)) remove(some);
    else if (event.key === "s") star(some);
    else if (event.key === "Escape") selection.clear();
    else if (!selection.step(event, still.id)) return;
    event.preventDefault();
  };
  const one = picked.length === 1 ? picked[0] : undefined;
  const two = picked.length === 2 ? ([picked[1]!, picked[0]!] as [StillLine, StillLine]) : undefined;
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-[46px] shrink-0 items-center gap-3 border-b border-rule-strong px-3.5">
        <Link href="/" className="flex items-center gap-2 text-[14px] font-semibold" title={t.allReviews}>
          <Mark />
          {t.usualLamp}
        </Link>
        <span className="text-rule-strong">/</span>
        <Link href={`/reviews/${reviewId}`} className="max-w-72 truncate font-semibold hover:underline">
          {name}
        </Link>
        <span className="text-rule-strong">/</span>
        <h1 className="font-semibold">{t.stills}</h1>
        <span className="flex-1" />
        <Link
          href={`/reviews/${reviewId}`}
          className="flex h-8 items-center rounded-md border border-rule-strong bg-white px-3 font-medium hover:bg-sheet"
        >
          {t.backToTheDesk}
        </Link>
      </header>
      <div className="flex min-h-0 flex-1">
        <main className="flex min-w-0 flex-1 flex-col">
          <div className="flex flex-wrap items-center gap-2 border-b border-rule px-3.5 py-2">
            <input
              type="search"
              aria-label={t.filterStills}
              placeholder={t.shotLookOutOf}
              className="h-[27px] w-44 rounded-md border border-rule-strong bg-white px-2"
              value={filter}
              onChange={(event) => setFilter(event.target.value)}
            />
            <select
              aria-label={t.groupBy}
              className="h-[27px] cursor-pointer rounded-md border border-rule-strong bg-white px-1.5"
              value={by}
              onChange={(event) => setBy(event.target.value as GroupBy)}
            >
              <option value="shot">{t.byShot}</option>
              <option value="look">{t.byLook}</option>
              <option value="lighting">{t.byLighting}</option>
            </select>
            {(["all", "starred", "out of date"] as const).map((word) => (
              <Button
                key={word}
                aria-pressed={only === word}
                look={only === word ? "ink" : "plain"}
                onClick={() => setOnly(word)}
              >
                {ONLY_WORDS[word]} <span className="figures">{counts[word]}</span>
              </Button>
            ))}
            <span className="flex-1" />
            <Button look="mark" disabled={stale.length === 0} onClick={() => again(stale)}>
              {t.takeAgain} {stale.length > 0 && stale.length}
            </Button>
            <Button look="mark" onClick={() => setDialog("matrix")}>
              {t.looksXLightingsX}
            </Button>
            <Button look="mark" disabled={order.length === 0} onClick={() => setDialog("download")}>
              {t.download}
            </Button>
          </div>
          <div
            ref={list}
            className="min-h-0 flex-1 overflow-y-auto"
            {...(order.length > 0 && LIST)}
            tabIndex={order.length === 0 ? 0 : -1}
          >
            {groups.map((group) => (
              <div
                key={group.key}
                role="group"
                aria-label={`${group.name}, ${group.stills.length} ${group.stills.length === 1 ? t.still : t.stills2}`}
              >
                <div aria-hidden="true" className="flex items-baseline gap-3 bg-sunk px-3.5 py-[7px]">
                  <b className="font-semibold">{group.name}</b>
                  <span className="why">
                    {group.stills.length} {group.stills.length === 1 ? t.still : t.stills2}
                  </span>
                </div>
                <div className="grid grid-cols-[repeat(auto-fill,minmax(210px,1fr))] items-start gap-3 p-3.5">
                  {group.stills.map((still) => (
                    <StillCard
                      key={still.id}
                      {...{ still, standing, list }}
                      selected={selection.ids.has(still.id)}
                      reached={selection.at === still.id}
                      onSelect={(how) => selection.select(still.id, how)}
                      onOpen={() => setViewed(still.id)}
                      onStar={() => star([still])}
                      onKey={(event) => onKey(event, still)}
                    />
                  ))}
                </div>
              </div>
            ))}
            {order.length === 0 && <Nothing any={stills.length > 0} reviewId={reviewId} />}
          </div>
          {picked.length > 0 && (
            <div className="flex min-h-[45px] items-center gap-2 border-t border-rule-strong bg-mark-soft px-3.5 py-2">
              <span className="flex-1">{t.selected(picked.length)}</span>
              {picked.length > 1 && <Steps stills={picked} reviewId={reviewId} look="mark" />}
              <Button look="mark" onClick={() => star(picked)}>
                {picked.every((still) => still.starred) ? t.removeStar : t.star}
              </Button>
              <Button
                look="mark"
                disabled={!picked.every((still) => standing.scene.shots[still.shot_id])}
                onClick={() => again(picked)}
              >
                {t.takeAgain}
              </Button>
              <Button look="mark" disabled={!picked.some(ended)} onClick={() => setDialog("download")}>
                {t.download}
              </Button>
              <Button look="mark" disabled={!picked.every(ended)} onClick={() => remove(picked)}>
                {t.remove}
              </Button>
              <Button look="text" onClick={selection.clear}>
                {t.clearSelection}
              </Button>
            </div>
          )}
        </main>
        <aside
          aria-label={t.selectedStills}
          className="flex w-[300px] shrink-0 flex-col gap-3 overflow-y-auto border-l border-rule-strong bg-sheet px-3.5 py-[13px]"
        >
          {two && (
            <>
              <span className="cap">{t.compare}</span>
              <Compare standing={standing} stills={two} />
            </>
          )}
          {one && <StillDetails reviewId={reviewId} standing={standing} still={one} />}
          {!one && !two && (
            <p className="text-ink-2">{picked.length > 2 ? t.selectTwoStillsTo : t.selectAStillFor}</p>
          )}
        </aside>
      </div>
      {viewed !== undefined && (
        <Viewer stills={order} id={viewed} onShow={setViewed} onMade={() => act(() => Promise.resolve())} />
      )}
      {dialog === "matrix" && (
        <MatrixDialog
          {...{ reviewId, standing }}
          open
          onOpen={(open) => !open && setDialog(undefined)}
          onTaken={() => act(() => Promise.resolve())}
        />
      )}
      {dialog === "download" && (
        <DownloadDialog
          reviewId={reviewId}
          stills={picked.length ? picked : order}
          open
          onOpen={(open) => !open && setDialog(undefined)}
        />
      )}
    </div>
  );
}

const ended = (still: StillLine) => still.state !== "running" && still.state !== "queued";

function Nothing({ any, reviewId }: { any: boolean; reviewId: string }) {
  return (
    <div className="mx-auto mt-24 max-w-md text-center">
      <p className="mb-2 text-[15px] font-semibold">{any ? t.noStillPassesThe : t.noStillYet}</p>
      <p className="text-ink-2">
        {any ? (
          t.clearTheFilterOr
        ) : (
          <>
            {t.takeOneOn}{" "}
            <Link href={`/reviews/${reviewId}`} className="text-mark underline">
              {t.theDesk}
            </Link>
            {t.orSeveralAtOnce}
          </>
        )}
      </p>
    </div>
  );
}

/** Which stills are selected, and the one that the keyboard is on. */
function useSelection(order: StillLine[]) {
  const [ids, setIds] = useState<ReadonlySet<string>>(new Set());
  const [at, setAt] = useState<string>();
  const from = useRef<string>(undefined);
  const typeAhead = useRef(new TypeAhead());
  const place = (id: string | undefined) => order.findIndex((still) => still.id === id);
  const select = (id: string, { ctrl, shift }: { ctrl: boolean; shift: boolean }) => {
    setAt(id);
    if (shift && place(from.current) >= 0) {
      const [low, high] = [place(from.current), place(id)].sort((a, b) => a - b) as [number, number];
      setIds(new Set(order.slice(low, high + 1).map((still) => still.id)));
      return;
    }
    from.current = id;
    const next = new Set(ctrl ? ids : []);
    if (ctrl && ids.has(id)) next.delete(id);
    else next.add(id);
    setIds(next);
  };
  /** Whether a key moved from a still to another, or selected. */
  const step = (event: React.KeyboardEvent, id: string) => {
    if (event.key === " ") {
      select(id, { ctrl: true, shift: false });
      return true;
    }
    if (event.key === "a" && (event.ctrlKey || event.metaKey)) {
      setIds(new Set(order.map((still) => still.id)));
      return true;
    }
    const by = {
      ArrowRight: 1,
      ArrowDown: 1,
      ArrowLeft: -1,
      ArrowUp: -1,
      Home: -order.length,
      End: order.length,
    };
    const names = order.map((still) => still.name);
    const ahead = typeAhead.current.find(event.nativeEvent, names, place(id));
    const move = by[event.key as keyof typeof by];
    if (move === undefined && ahead === undefined) return false;
    const next = order[ahead ?? Math.max(0, Math.min(order.length - 1, place(id) + move))]!;
    select(next.id, { ctrl: false, shift: event.shiftKey });
    document.querySelector<HTMLElement>(`[role=option][data-still="${next.id}"]`)?.focus();
    return true;
  };
  return {
    ids,
    at: place(at) >= 0 ? at : order[0]?.id,
    select,
    step,
    clear: () => setIds(new Set()),
  };
}
