import { useState } from "react";
import type { Lamp } from "../../api/client";
import { SUN_TIME, TOWNS } from "../../api/generated/facts";
import { sunAt } from "../../api/lighting";
import { toast } from "../../api/toast";
import { Amount } from "../../ui/Amount";
import { Button, Choice, NumberField } from "../../ui/controls";
import * as t from "../../words/texts/drawer/light/SunFields";

type Distant = Extract<Lamp, { kind: "distant" }>;
type When = NonNullable<Distant["sun"]>;

interface Props {
  lamp: Distant;
  set: (change: object) => void;
}

/** Puts a distant lamp where the sun is at a date, time and place. */
export function SunFields({ lamp, set }: Props) {
  const when = lamp.sun ?? SUN_TIME;
  const [draft, setDraft] = useState<Partial<When>>({});
  const shown = { ...when, ...draft };
  const put = async (change: Partial<When>) => {
    setDraft({});
    try {
      const next = await sunAt(lamp, { ...when, ...change });
      set(next);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  if (!lamp.sun)
    return (
      <Button className="shrink-0 self-start" onClick={() => put({})}>
        {t.sunByDateAnd}
      </Button>
    );
  const minutes = (time: string) => Number(time.slice(0, 2)) * 60 + Number(time.slice(3));
  const clock = (value: number) =>
    `${String(Math.floor(value / 60)).padStart(2, "0")}:${String(Math.round(value) % 60).padStart(2, "0")}`;
  const town = TOWNS.find(
    ([, latitude, longitude]) => latitude === when.latitude && longitude === when.longitude,
  );
  return (
    <>
      <div className="flex items-center justify-between">
        <span className="cap">{t.sunByDateAndPlace}</span>
        <Button look="text" onClick={() => set({ sun: null })}>
          {t.byHand}
        </Button>
      </div>
      <label className="flex items-center justify-between">
        {t.date}
        <input
          type="date"
          className="figures h-7 rounded-md border border-rule-strong bg-white px-1.5"
          value={shown.date}
          min="1950-01-01"
          max="2049-12-31"
          onChange={(event) => setDraft({ date: event.target.value })}
          onBlur={() => draft.date && draft.date !== when.date && put({ date: draft.date })}
          onKeyDown={(event) => {
            if (event.key === "Enter") event.currentTarget.blur();
            event.stopPropagation();
          }}
        />
      </label>
      <Amount
        label={t.time(when.time)}
        value={minutes(when.time) / 60}
        min={0}
        max={23.75}
        step={0.25}
        unit="h"
        onCommit={(hours) => put({ time: clock(hours * 60) })}
      />
      <Choice
        label={t.place}
        value={town?.[0] ?? ""}
        choices={[
          ...(town ? [] : ([["", t.ownCoordinates]] as const)),
          ...TOWNS.map(([name]) => [name, name] as const),
        ]}
        onChange={(name) => {
          const found = TOWNS.find(([known]) => known === name);
          if (found) put({ latitude: found[1], longitude: found[2], zone: found[3] });
        }}
      />
      {(
        [
          ["latitude", t.latitudeNorth, -90, 90, 2],
          ["longitude", t.longitudeEast, -180, 180, 2],
          ["zone", t.timeZoneHTo, -12, 14, 1],
        ] as const
      ).map(([name, label, low, high, digits]) => (
        <div key={name} className="flex items-center justify-between">
          <span>{label}</span>
          <span className="w-[80px]">
            <NumberField
              label={label}
              value={when[name]}
              digits={digits}
              onCommit={(value) => put({ [name]: Math.min(high, Math.max(low, value)) })}
            />
          </span>
        </div>
      ))}
      <Amount
        label={t.north}
        value={when.north}
        min={-180}
        max={180}
        step={1}
        digits={0}
        unit="°"
        onCommit={(north) => put({ north })}
      />
      <Amount
        label={t.haze}
        value={when.turbidity}
        min={1}
        max={10}
        step={0.1}
        digits={1}
        onCommit={(turbidity) => put({ turbidity })}
      />
      <p className="why">{t.northLiesBehindThe}</p>
    </>
  );
}
