import { Check, Download, Pause, Play, Square, Trash2 } from "lucide-react";
import type { StillLine } from "../../api/client";
import { actions, useAct } from "../../api/queries";
import { endStill, isFor } from "../../api/stills";
import { toast } from "../../api/toast";
import { useDesk } from "../../state/deskStore";
import { IconButton } from "../../ui/controls";
import { decimals, percent } from "../../words/numbers";
import * as t from "../../words/texts/schedules/shots/StillRow";

function Thumb({ still }: { still?: StillLine }) {
  return (
    <span
      className="block h-[84px] w-full border border-rule-strong bg-mat bg-cover bg-center"
      style={
        still?.version
          ? { backgroundImage: `url(/api/stills/${still.id}/preview?v=${still.version})` }
          : undefined
      }
    />
  );
}

export function StillRow({ reviewId, still, shown }: { reviewId: string; still: StillLine; shown: boolean }) {
  const act = useAct(["stills", reviewId]);
  const busy = still.state === "running" || still.state === "queued";
  const remove = async () => {
    await act(() => actions.removeStill(still.id));
    if (shown) useDesk.setState({ shownStill: undefined });
    toast(t.stillRemoved, {
      action: { label: t.undo, onClick: () => act(() => actions.restoreStill(still.id)) },
    });
  };
  return (
    <div
      data-still={still.id}
      data-row={still.name}
      data-state={still.state}
      className={`group relative border-b border-rule px-3 py-[11px] ${shown ? "bg-mark-soft shadow-[inset_3px_0_0_var(--color-mark)]" : "hover:bg-paper"}`}
    >
      <button
        type="button"
        className="grid w-full cursor-pointer grid-cols-[18px_112px_1fr] gap-3 text-left"
        title={t.lookAtThisStill}
        aria-current={shown || undefined}
        onClick={() => useDesk.setState({ shownStill: still.id })}
      >
        <span />
        <Thumb still={still} />
        <span className="min-w-0">
          <span className="figures">
            {still.width} x {still.height} · {qualityOf(still)}
          </span>
          <br />
          <StateWords still={still} />
          <br />
          <span className="why">
            {t.ofSamples(still.samples_done, still.samples)}
            {still.grain != null && t.noise(percent(still.grain, 1))}
            {still.state === "done" && (still.relit ? t.relit : `, ${duration(still.seconds)}`)}
          </span>
        </span>
      </button>
      {busy && (
        <div className="absolute inset-x-0 bottom-0 h-[2px] bg-rule" aria-hidden="true">
          <div
            className="h-full bg-ink"
            style={{ width: `${(100 * still.samples_done) / still.samples}%` }}
          />
        </div>
      )}
      <div className="absolute right-2 bottom-1.5 flex">
        {isFor("pause", still) && (
          <IconButton label={t.pause} onClick={() => act(() => actions.pause(still.id))}>
            <Pause size={14} />
          </IconButton>
        )}
        {isFor("resume", still) && (
          <IconButton label={t.resume} onClick={() => act(() => actions.resume(still.id))}>
            <Play size={14} />
          </IconButton>
        )}
        {isFor("end", still) && (
          <IconButton label={t.finishNow} onClick={() => act(() => endStill(still.id))}>
            <Check size={14} />
          </IconButton>
        )}
        {isFor("stop", still) && (
          <IconButton label={t.stop} onClick={() => act(() => actions.stop(still.id))}>
            <Square size={13} />
          </IconButton>
        )}
        {still.state === "done" && (
          <a
            aria-label={t.downloadPng}
            title={t.downloadPng}
            className="grid h-7 w-7 place-items-center rounded-md text-ink-2 hover:bg-sunk hover:text-ink"
            href={`/api/stills/${still.id}/picture`}
            download
          >
            <Download size={14} />
          </a>
        )}
        {!busy && (
          <IconButton label={t.removeThisStill} onClick={remove}>
            <Trash2 size={14} />
          </IconButton>
        )}
      </div>
    </div>
  );
}

function Dropped({ count }: { count: number }) {
  if (!count) return null;
  return (
    <span className="ml-1 text-[12px] text-warn" title={t.theTracerFoundNo}>
      {t.lost(count, count === 1 ? t.sample : t.samples)}
    </span>
  );
}

export function StateWords({ still }: { still: StillLine }) {
  const share = Math.round((100 * still.samples_done) / still.samples);
  if (still.state === "done")
    return (
      <>
        {still.current ? (
          <span className="font-narrow text-[12px] font-medium text-ok">{t.current}</span>
        ) : (
          <span className="font-narrow text-[12px] font-medium text-warn">{t.outOfDate}</span>
        )}
        <Dropped count={still.dropped} />
      </>
    );
  if (still.state === "failed") return <span className="text-[12px] text-stop">✕ {still.message}</span>;
  if (still.state === "running" && still.message && share >= 100)
    return <span className="font-narrow text-[12px] font-medium">{t.finishing(still.message)}</span>;
  const words = { queued: t.waiting, running: t.tracing, paused: t.paused, stopped: t.stopped }[still.state];
  return (
    <span className="font-narrow text-[12px] font-medium">
      {words}
      {still.state !== "queued" && (share < 100 ? `, ${share} %` : t.notFinished)}
      {still.state === "running" && still.seconds_left != null && (
        <span className="why ml-1 font-normal">{t.left(duration(still.seconds_left))}</span>
      )}
      {still.state === "running" && still.message && (
        <span className="why ml-1 font-normal">{still.message}</span>
      )}
      <Dropped count={still.dropped} />
    </span>
  );
}

/** How fine a still was to be. */
export function qualityOf({ quality, grain_asked, minutes_asked, ends_now }: StillLine): string {
  const timed = minutes_asked != null && t.inMin(decimals(minutes_asked, minutes_asked < 10 ? 1 : 0));
  const asked = timed || (grain_asked == null ? quality : t.byNoise);
  return ends_now ? t.endedEarly(asked) : asked;
}

/** 42.3 → "42 s", 75 → "1:15 min", 10938 → "3:02 h" */
export function duration(seconds: number): string {
  const whole = Math.max(1, Math.round(seconds));
  const [minutes, rest] = [Math.floor(whole / 60), String(whole % 60).padStart(2, "0")];
  if (minutes < 1) return `${whole} s`;
  if (minutes < 120) return t.min(minutes, rest);
  const all = Math.round(whole / 60);
  return t.hours(Math.floor(all / 60), String(all % 60).padStart(2, "0"));
}
