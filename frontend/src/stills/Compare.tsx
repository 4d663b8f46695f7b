import { useState } from "react";
import type { Standing, StillLine } from "../api/client";
import { previewOf, takenIn } from "../api/stills";
import { WipeLine } from "../ui/WipeLine";
import * as t from "../words/texts/stills/Compare";

const WAYS = ["wipe", "beside", "difference"] as const;
export type Way = (typeof WAYS)[number];

interface Props {
  standing: Standing;
  stills: [StillLine, StillLine];
  large?: boolean;
}

/** Two stills held against each other: under a wipe, beside each other, or what differs between them. */
export function Compare({ standing, stills, large }: Props) {
  const [way, setWay] = useState<Way>("wipe");
  const [share, setShare] = useState(50);
  const [first, second] = stills;
  const aspect = Math.max(first.width / first.height, second.width / second.height);
  const name = (one: StillLine) => {
    const { look, lighting } = takenIn(standing, one);
    return [one.name, look, lighting].filter(Boolean).join(", ");
  };
  const picture = (one: StillLine, style?: React.CSSProperties) => (
    <img
      alt={name(one)}
      draggable={false}
      className="absolute inset-0 h-full w-full object-contain"
      src={previewOf(one)}
      style={style}
    />
  );
  return (
    <div className={`flex flex-col gap-2 ${large ? "h-full" : ""}`}>
      <div role="radiogroup" aria-label={t.howToCompare} className="flex gap-3">
        {WAYS.map((one) => (
          <button
            key={one}
            type="button"
            role="radio"
            aria-checked={way === one}
            className={`cursor-pointer capitalize ${way === one ? "font-semibold underline underline-offset-4" : "text-ink-2 hover:text-ink"}`}
            onClick={() => setWay(one)}
          >
            {one}
          </button>
        ))}
      </div>
      <div className={`flex gap-1 bg-mat ${large ? "min-h-0 flex-1" : ""}`}>
        {way === "beside" ? (
          stills.map((one) => (
            <div
              key={one.id}
              className="relative flex-1"
              style={large ? undefined : { aspectRatio: one.width / one.height }}
            >
              {picture(one)}
            </div>
          ))
        ) : (
          <div className="relative isolate w-full" style={large ? undefined : { aspectRatio: aspect }}>
            {picture(first)}
            {picture(
              second,
              way === "wipe" ? { clipPath: `inset(0 0 0 ${share}%)` } : { mixBlendMode: "difference" },
            )}
            {way === "wipe" && (
              <WipeLine share={share} onShare={setShare} className="inset-0 h-full opacity-0" />
            )}
          </div>
        )}
      </div>
      <p className="why flex justify-between gap-3">
        <span className="truncate">{name(first)}</span>
        <span className="truncate text-right">{name(second)}</span>
      </p>
    </div>
  );
}
