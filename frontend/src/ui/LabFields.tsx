import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { convertColor } from "../api/appearance";
import * as t from "../words/texts/ui/LabFields";
import { NumberField } from "./controls";

type Three = [number, number, number];

interface Props {
  label: string;
  linear: Three;
  onCommit: (linear: Three) => void;
}

const AXES = ["L*", "a*", "b*"] as const;

/** A colour as an instrument measures it: CIELAB under D65. All three are taken over together, on leaving them. */
export function LabFields({ label, linear, onCommit }: Props) {
  const found = useQuery({
    queryKey: ["color", linear],
    queryFn: () => convertColor({ linear }),
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
  const entered = useRef<Three>(undefined);
  const [outside, setOutside] = useState(false);
  if (!found) return null;
  const take = async () => {
    const lab = entered.current;
    entered.current = undefined;
    if (!lab) return;
    const next = await convertColor({ lab });
    setOutside(!next.shown);
    onCommit(next.linear as Three);
  };
  return (
    <fieldset
      aria-label={t.cielab(label)}
      className="flex flex-col gap-1"
      onBlur={(event) => !event.currentTarget.contains(event.relatedTarget) && take()}
    >
      <div className="grid grid-cols-[88px_1fr_1fr_1fr] items-baseline gap-2">
        <span className="why text-right">{t.cielabD65}</span>
        {AXES.map((axis, k) => (
          <span key={axis} className="flex items-baseline gap-1">
            <span className="why">{axis}</span>
            <NumberField
              label={`${label}, ${axis}`}
              value={(found.lab as Three)[k]!}
              digits={1}
              onCommit={(value) => {
                entered.current = (entered.current ?? (found.lab as Three)).map((old, place) =>
                  place === k ? value : old,
                ) as Three;
              }}
            />
          </span>
        ))}
      </div>
      {outside && (
        <p className="why" role="status">
          {t.noSrgbScreenCan}
        </p>
      )}
    </fieldset>
  );
}
