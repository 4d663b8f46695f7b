import { ChevronDown } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import type { Edit, Quality, Standing } from "../api/client";
import { type StillForecast, useForecast } from "../api/forecast";
import { QUALITIES, SAMPLES } from "../api/generated/facts";
import { actions, useAct } from "../api/queries";
import { boundedWidth } from "../api/stills";
import { toast } from "../api/toast";
import { duration } from "../schedules/shots/StillRow";
import { cameraOf, sameView } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { Button, Check, Hint, NumberField } from "../ui/controls";
import { decimals, percent } from "../words/numbers";
import * as t from "../words/texts/desk/TakeStill";
import { askToNotify } from "./useFinished";

const WORDS: Record<Quality, string> = {
  coarse: t.toJudgeLightAnd,
  fair: t.forAReview,
  fine: t.forPrint,
};

interface Props {
  reviewId: string;
  standing: Standing;
  shotId: string;
  edit: (change: Edit) => void;
}

export function useTakeStill(reviewId: string, standing: Standing | undefined, shotId: string) {
  const act = useAct(["stills", reviewId]);
  return async (
    quality: Quality = "fair",
    size?: { width: number; height: number },
    until: Until | undefined = noiseAccepted(),
    thisView = false,
    byKind = false,
  ) => {
    const shot = standing?.scene.shots[shotId];
    if (!shot) return;
    const { width, height } = size ?? { width: shot.width ?? 1280, height: shot.height ?? 960 };
    const view = useDesk.getState().view;
    const moved = view && !sameView(view, shot.camera);
    const camera = thisView && view ? cameraOf(view) : null;
    try {
      await act(() =>
        actions.take(reviewId, {
          shot: shotId,
          quality,
          width,
          height,
          grain: until?.grain ?? null,
          minutes: until?.minutes ?? null,
          look: null,
          lighting: null,
          crop: null,
          camera,
          by_kind: byKind,
        }),
      );
      useDesk.setState({ sheet: "shots" });
      const elsewhere = camera ? t.theViewOnThe : t.theShotNotThe(shot.name);
      const what = t.tracingX(moved ? elsewhere : "", width, height);
      toast(t.theDeskStaysFree(what, untilWords(until) ?? quality));
    } catch {
      // useAct has said why
    }
  };
}

/** Noise at which a still ends, or how long it is traced, in place of a quality. */
interface Until {
  grain?: number;
  minutes?: number;
}

/** The noise that the desk accepts for the next stills, if it was asked for one. */
function noiseAccepted(): Until | undefined {
  const { stillNoise } = useDesk.getState();
  return stillNoise === undefined ? undefined : { grain: stillNoise / 100 };
}

function untilWords(until?: Until): string | undefined {
  if (until?.grain) return t.untilTheNoiseIs(percent(until.grain, 1));
  return until?.minutes ? t.forMin(decimals(until.minutes, until.minutes < 10 ? 1 : 0)) : undefined;
}

/** The one primary button, with size and quality beside it. */
export function TakeStill({ reviewId, standing, shotId, edit }: Props) {
  const take = useTakeStill(reviewId, standing, shotId);
  const shot = standing.scene.shots[shotId]!;
  const view = useDesk((state) => state.view);
  const [open, setOpen] = useState(false);
  const [quality, setQuality] = useState<Quality>("fair");
  const [width, setWidth] = useState(0);
  const [way, setWay] = useState<"quality" | "minutes">("quality");
  const accepted = useDesk((state) => state.stillNoise);
  const [noise, setNoise] = useState(5);
  const [minutes, setMinutes] = useState(5);
  const [byKind, setByKind] = useState(false);
  const by = accepted === undefined ? way : "noise";
  const setBy = (next: typeof by) => {
    useDesk.setState((desk) => ({ stillNoise: next === "noise" ? (desk.stillNoise ?? noise) : undefined }));
    if (next !== "noise") setWay(next);
  };
  const until = by === "minutes" ? { minutes } : noiseAccepted();
  const asked = width || (shot.width ?? 1280);
  const height = Math.round((asked * (shot.height ?? 960)) / (shot.width ?? 1280));
  const moved = view && !sameView(view, shot.camera);
  const wish = {
    shot: shotId,
    camera: shot.camera,
    width: asked,
    height,
    grain: (accepted ?? noise) / 100,
    minutes,
  };
  const forecast = useForecast(reviewId, standing.seq, wish, open);
  return (
    <div className="flex" data-guide="still">
      <Hint
        text={t.takeAStillOf(
          shot.name,
          shot.width,
          shot.height,
          untilWords(until) ?? quality,
          moved ? t.theDeskShowsAnotherView : "",
        )}
        keys="T"
      >
        <button
          type="button"
          className="h-8 cursor-pointer rounded-l-md bg-ink px-3.5 font-semibold text-white hover:bg-ink/90"
          onClick={() => take(quality, undefined, until, false, byKind)}
        >
          {moved ? t.takeStillOfThe : t.takeStill}
        </button>
      </Hint>
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger
          aria-label={t.sizeAndQualityOf}
          className="h-8 cursor-pointer rounded-r-md border-l border-white/30 bg-ink px-2 text-white hover:bg-ink/90"
        >
          <ChevronDown size={15} />
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            aria-label={t.sizeAndQualityOf}
            align="end"
            sideOffset={6}
            className="z-40 flex w-[300px] flex-col gap-2.5 rounded-md border border-rule-strong bg-sheet p-3.5 shadow-xl"
          >
            <span className="cap">{t.quality}</span>
            <div role="radiogroup" aria-label={t.quality} className="flex flex-col gap-1">
              {QUALITIES.map((name) => (
                <button
                  key={name}
                  type="button"
                  role="radio"
                  aria-checked={by === "quality" && quality === name}
                  className={`flex cursor-pointer items-baseline gap-2 rounded-md border px-2.5 py-1.5 text-left ${by === "quality" && quality === name ? "border-mark bg-mark-soft" : "border-rule hover:bg-white"}`}
                  onClick={() => {
                    setQuality(name);
                    setBy("quality");
                  }}
                >
                  <b className="w-12 font-semibold capitalize">{name}</b>
                  <span className="why flex-1">{t.samples(SAMPLES[name], WORDS[name])}</span>
                  <span className="figures">
                    {forecast.data && duration(forecast.data.qualities[name]!.seconds)}
                  </span>
                </button>
              ))}
              <UntilRow
                name={t.noise2}
                words={t.untilItIsAt}
                label={t.noiseStopAt}
                unit="%"
                value={accepted ?? noise}
                range={[0.5, 50]}
                checked={by === "noise"}
                onCheck={() => setBy("noise")}
                onChange={(value) => {
                  setNoise(value);
                  useDesk.setState({ stillNoise: value });
                }}
              />
              <UntilRow
                name={t.time}
                words={t.tracedFor}
                label={t.timeStopAfter}
                unit="min"
                value={minutes}
                range={[0.1, 1440]}
                checked={by === "minutes"}
                onCheck={() => setBy("minutes")}
                onChange={setMinutes}
              />
            </div>
            <span className="cap">{t.size}</span>
            <div className="flex items-baseline gap-2">
              <div className="w-24">
                <NumberField
                  label={t.widthOfTheStill}
                  value={asked}
                  unit="px"
                  onCommit={(v) => setWidth(boundedWidth(v, (shot.width ?? 1280) / (shot.height ?? 960)))}
                />
              </div>
              <span className="figures">{t.xPx(height)}</span>
              <span className="why ml-auto">{t.sameAspectRatio}</span>
            </div>
            <Hint text={t.forCompositingThe}>
              <div>
                <Check label={t.keepLayersByKind} checked={byKind} onChange={setByKind} />
              </div>
            </Hint>
            {"Notification" in window && Notification.permission === "default" && (
              <Button look="text" className="self-start" onClick={askToNotify}>
                {t.notifyMeWhenStills}
              </Button>
            )}
            {moved && !shot.locked && (
              <p className="rounded-sm border border-rule bg-white px-2.5 py-[7px] text-[12px]">
                {t.theDeskShowsAnother}{" "}
                <Button
                  look="text"
                  onClick={() =>
                    edit({
                      kind: "set_shot",
                      id: shotId,
                      shot: { ...shot, camera: cameraOf(view) },
                    })
                  }
                >
                  {t.updateShot}
                </Button>
              </p>
            )}
            <p className="why" role="status">
              {forecast.data ? (
                <Expected forecast={forecast.data} by={by} quality={quality} />
              ) : forecast.isError ? (
                forecast.error.message
              ) : (
                t.measuringHowLong
              )}
            </p>
            <Button
              look="ink"
              onClick={() => {
                setOpen(false);
                take(quality, { width: asked, height }, until, false, byKind);
              }}
            >
              {t.takeStill}
              {moved && t.ofTheShot}, {asked} x {height}
            </Button>
            {moved && (
              <Button
                onClick={() => {
                  setOpen(false);
                  take(quality, { width: asked, height }, until, true, byKind);
                }}
              >
                {t.takeStillOfThis(asked, height)}
              </Button>
            )}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </div>
  );
}

interface ExpectedProps {
  forecast: StillForecast;
  by: "quality" | "noise" | "minutes";
  quality: Quality;
}

/** What the still will take, in words. */
function Expected({ forecast, by, quality }: ExpectedProps) {
  const found =
    by === "quality" ? forecast.qualities[quality] : by === "noise" ? forecast.at_grain : forecast.in_time;
  if (!found) return t.measuringHowLong;
  const left = found.grain === null ? "" : t.noiseAbout(percent(found.grain, 1));
  return t.aboutOfTracing(duration(found.seconds), found.samples, left);
}

interface UntilRowProps {
  name: string;
  words: string;
  label: string;
  unit: string;
  value: number;
  range: [least: number, most: number];
  checked: boolean;
  onCheck: () => void;
  onChange: (value: number) => void;
}

/** One more way to say how fine a still is to be: by a number. */
function UntilRow({ name, words, label, unit, value, range, checked, onCheck, onChange }: UntilRowProps) {
  return (
    <div
      className={`flex items-baseline gap-2 rounded-md border px-2.5 py-1.5 ${checked ? "border-mark bg-mark-soft" : "border-rule hover:bg-white"}`}
    >
      <button
        type="button"
        role="radio"
        aria-checked={checked}
        className="flex flex-1 cursor-pointer items-baseline gap-2 text-left"
        onClick={onCheck}
      >
        <b className="w-12 font-semibold">{name}</b>
        <span className="why">{words}</span>
      </button>
      <div className="w-16">
        <NumberField
          label={label}
          value={value}
          unit={unit}
          onCommit={(next) => {
            onChange(Math.min(range[1], Math.max(range[0], next)));
            onCheck();
          }}
        />
      </div>
    </div>
  );
}
