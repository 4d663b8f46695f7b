import { useState } from "react";
import type { Lighting, StillLine } from "../api/client";
import { actions, useAct, useStillLighting } from "../api/queries";
import { previewOf } from "../api/stills";
import { LightRows } from "../schedules/lights/LightRows";
import { duration, qualityOf, StateWords } from "../schedules/shots/StillRow";
import { useDesk } from "../state/deskStore";
import { Button } from "../ui/controls";
import { moment, percent } from "../words/numbers";
import * as t from "../words/texts/drawer/StillFacts";

interface Props {
  reviewId: string;
  still: StillLine;
  /** Nothing else is said of it: with its file, and the way back to the desk. */
  alone?: boolean;
}

/** The facts of a still that is looked at, and its lights where they can still be changed. */
export function StillFacts({ reviewId, still, alone = true }: Props) {
  const facts: [string, string][] = [
    [t.size, `${still.width} x ${still.height}`],
    [t.quality, still.grain_asked == null ? qualityOf(still) : t.noiseAtMost(percent(still.grain_asked, 1))],
    [t.samples, t.ofWord(still.samples_done, still.samples)],
    [t.noise, still.grain == null ? t.notMeasuredYet : percent(still.grain, 1)],
    still.relit
      ? [t.madeFrom, t.lightOfAnEarlier]
      : [t.tracedIn, still.seconds > 0 ? duration(still.seconds) : t.notBegun],
    ...(still.crop ? ([[t.partOfTheFrame, shareOf(still.crop.region)]] as [string, string][]) : []),
    ...(still.by_kind ? ([[t.layers, t.byKindOfLight]] as [string, string][]) : []),
    [t.engine, still.engine],
    [t.taken, moment(still.created)],
  ];
  return (
    <>
      <header>
        <span className="cap">{t.still}</span>
        <div className="mt-1.5 flex flex-wrap items-baseline justify-between gap-x-2">
          <b className="max-w-full truncate text-[15px] font-semibold">{still.name}</b>
          <StateWords still={still} />
        </div>
      </header>
      <dl className="flex flex-col gap-[7px]">
        {facts.map(([name, value]) => (
          <div key={name} className="flex justify-between border-b border-row pb-[5px]">
            <dt className="text-ink-2">{name}</dt>
            <dd className="figures">{value}</dd>
          </div>
        ))}
      </dl>
      {alone && still.state === "done" && (
        <a
          className="flex h-8 shrink-0 items-center justify-center rounded-md border border-mark bg-white font-medium text-mark hover:bg-mark-soft"
          href={`/api/stills/${still.id}/picture`}
          download
        >
          {t.downloadPng}
        </a>
      )}
      {alone && still.light_kept && <StillLights reviewId={reviewId} still={still} />}
      {alone && still.version > 0 && (
        <Button
          className="shrink-0"
          onClick={() =>
            useDesk.setState({
              reference: { name: still.name, url: previewOf(still), way: "beside" },
              shownStill: undefined,
              beside: undefined,
              besideLighting: undefined,
            })
          }
        >
          {t.pinBesideTheDesk}
        </Button>
      )}
      {alone && (
        <Button className="shrink-0" onClick={() => useDesk.setState({ shownStill: undefined })}>
          {t.backToTheDesk}
        </Button>
      )}
    </>
  );
}

/** How much of a frame a region is. */
function shareOf([left, top, right, bottom]: readonly number[]): string {
  return `${Math.max(1, Math.round(100 * (right! - left!) * (bottom! - top!)))} %`;
}

/** Switches and levels of a finished still's lights: a new version of it, without tracing. */
export function StillLights({ reviewId, still }: { reviewId: string; still: StillLine }) {
  const taken = useStillLighting(still.id).data;
  const [changed, setChanged] = useState<Lighting>();
  const act = useAct(["stills", reviewId]);
  const lighting = changed ?? taken;
  if (!lighting) return null;
  const make = async () => {
    const made = (await act(() => actions.relight(still.id, lighting))) as { id: string };
    useDesk.setState({ shownStill: made.id });
  };
  return (
    <section aria-label={t.lightsOfThisStill} className="flex flex-col gap-2">
      <span className="cap">{t.lightsOfThisStill}</span>
      <div className="border border-rule bg-white">
        <LightRows
          narrow
          lighting={lighting}
          setLighting={(change) => setChanged({ ...lighting, ...change })}
          setLamp={(key, lamp) => setChanged({ ...lighting, lamps: { ...lighting.lamps, [key]: lamp } })}
        />
      </div>
      <p className="why">{t.eachLightWasKept}</p>
      <div className="flex gap-2">
        <Button look="mark" disabled={!changed} onClick={make}>
          {t.makeAVersion}
        </Button>
        <Button disabled={!changed} onClick={() => setChanged(undefined)}>
          {t.asTaken}
        </Button>
      </div>
    </section>
  );
}
