import type { Edit, Quality, Standing } from "../api/client";
import { type StillForecast, useForecast } from "../api/forecast";
import { QUALITIES, SAMPLES } from "../api/generated/facts";
import { boundedWidth } from "../api/stills";
import { duration } from "../schedules/shots/StillRow";
import { cameraOf, sameView } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { Button, Check, NumberField } from "../ui/controls";
import { Hint } from "../ui/Hint";
import { percent } from "../words/numbers";
import * as t from "../words/texts/desk/StillOptions";
import type { StillWish, Until, useTakeStill } from "./takingStills";
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
  wish: StillWish;
  until?: Until;
  change: (part: Partial<StillWish>) => void;
  take: ReturnType<typeof useTakeStill>;
  edit: (change: Edit) => void;
  onClose: () => void;
}

/** Size and quality of the next still, what it will take, and the button that takes it. */
export function StillOptions({
  reviewId,
  standing,
  shotId,
  wish,
  until,
  change,
  take,
  edit,
  onClose,
}: Props) {
  const { quality, minutes, noise, byKind } = wish;
  const shot = standing.scene.shots[shotId]!;
  const view = useDesk((state) => state.view);
  const accepted = useDesk((state) => state.stillNoise);
  const by = accepted === undefined ? wish.way : "noise";
  const setBy = (next: typeof by) => {
    useDesk.setState((desk) => ({ stillNoise: next === "noise" ? (desk.stillNoise ?? noise) : undefined }));
    if (next !== "noise") change({ way: next });
  };
  const asked = wish.width || (shot.width ?? 1280);
  const height = Math.round((asked * (shot.height ?? 960)) / (shot.width ?? 1280));
  const moved = view && !sameView(view, shot.camera);
  const forecast = useForecast(
    reviewId,
    standing.seq,
    { shot: shotId, camera: shot.camera, width: asked, height, grain: (accepted ?? noise) / 100, minutes },
    true,
  );
  const takeIt = (thisView: boolean) => {
    onClose();
    take(quality, { width: asked, height }, until, thisView, byKind);
  };
  return (
    <>
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
              change({ quality: name });
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
            change({ noise: value });
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
          onChange={(value) => change({ minutes: value })}
        />
      </div>
      <span className="cap">{t.size}</span>
      <div className="flex items-baseline gap-2">
        <div className="w-24">
          <NumberField
            label={t.widthOfTheStill}
            value={asked}
            unit="px"
            onCommit={(v) => change({ width: boundedWidth(v, (shot.width ?? 1280) / (shot.height ?? 960)) })}
          />
        </div>
        <span className="figures">{t.xPx(height)}</span>
        <span className="why ml-auto">{t.sameAspectRatio}</span>
      </div>
      <Hint text={t.forCompositingThe}>
        <div>
          <Check label={t.keepLayersByKind} checked={byKind} onChange={(kept) => change({ byKind: kept })} />
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
      <Button look="ink" onClick={() => takeIt(false)}>
        {t.takeStill}
        {moved && t.ofTheShot}, {asked} x {height}
      </Button>
      {moved && <Button onClick={() => takeIt(true)}>{t.takeStillOfThis(asked, height)}</Button>}
    </>
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
