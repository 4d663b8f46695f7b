import { useState } from "react";
import type { Lamp } from "../../api/client";
import { sunAt } from "../../api/lighting";
import { toast } from "../../api/toast";
import { Amount, Button, Choice, NumberField } from "../../ui/controls";

type Distant = Extract<Lamp, { kind: "distant" }>;
type When = NonNullable<Distant["sun"]>;

/** Name, latitude, longitude, and hours ahead of UTC without summer time. */
const TOWNS: [string, number, number, number][] = [
  ["Auckland", -36.85, 174.76, 12],
  ["Bangalore", 12.97, 77.59, 5.5],
  ["Berlin", 52.52, 13.41, 1],
  ["Cape Town", -33.92, 18.42, 2],
  ["Chicago", 41.88, -87.63, -6],
  ["Dubai", 25.2, 55.27, 4],
  ["London", 51.51, -0.13, 0],
  ["Madrid", 40.42, -3.7, 1],
  ["Milan", 45.46, 9.19, 1],
  ["Munich", 48.14, 11.58, 1],
  ["New York", 40.71, -74.01, -5],
  ["Osaka", 34.69, 135.5, 9],
  ["Paris", 48.86, 2.35, 1],
  ["San Francisco", 37.77, -122.42, -8],
  ["São Paulo", -23.55, -46.63, -3],
  ["Shanghai", 31.23, 121.47, 8],
  ["Singapore", 1.35, 103.82, 8],
  ["Stockholm", 59.33, 18.07, 1],
  ["Sydney", -33.87, 151.21, 10],
  ["Warsaw", 52.23, 21.01, 1],
];
const FIRST: When = {
  date: "2026-06-21",
  time: "15:00",
  zone: 1,
  latitude: 48.14,
  longitude: 11.58,
  north: 0,
  turbidity: 3,
};

interface Props {
  lamp: Distant;
  set: (change: object) => void;
}

/** Puts a distant lamp where the sun is at a date, time and place. */
export function SunFields({ lamp, set }: Props) {
  const when = lamp.sun ?? FIRST;
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
      <Button className="self-start" onClick={() => put({})}>
        Sun by date and place…
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
        <span className="cap">Sun by date and place</span>
        <Button look="text" onClick={() => set({ sun: null })}>
          By hand
        </Button>
      </div>
      <label className="flex items-center justify-between">
        Date
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
        label={`Time, ${when.time}`}
        value={minutes(when.time) / 60}
        min={0}
        max={23.75}
        step={0.25}
        unit="h"
        onCommit={(hours) => put({ time: clock(hours * 60) })}
      />
      <Choice
        label="Place"
        value={town?.[0] ?? ""}
        choices={[
          ...(town ? [] : ([["", "own coordinates"]] as const)),
          ...TOWNS.map(([name]) => [name, name] as const),
        ]}
        onChange={(name) => {
          const found = TOWNS.find(([known]) => known === name);
          if (found) put({ latitude: found[1], longitude: found[2], zone: found[3] });
        }}
      />
      {(
        [
          ["latitude", "Latitude, ° north", -90, 90, 2],
          ["longitude", "Longitude, ° east", -180, 180, 2],
          ["zone", "Time zone, h to UTC", -12, 14, 1],
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
        label="North"
        value={when.north}
        min={-180}
        max={180}
        step={1}
        digits={0}
        unit="°"
        onCommit={(north) => put({ north })}
      />
      <Amount
        label="Haze"
        value={when.turbidity}
        min={1}
        max={10}
        step={0.1}
        digits={1}
        onCommit={(turbidity) => put({ turbidity })}
      />
      <p className="why">
        North lies behind the product at 0°. Times are standard time; add an hour to the zone for summer time.
      </p>
    </>
  );
}
