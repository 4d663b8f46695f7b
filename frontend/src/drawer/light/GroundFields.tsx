import type { Lighting } from "../../api/client";
import { Check, LENGTH, NumberField } from "../../ui/controls";
import * as t from "../../words/texts/drawer/light/GroundFields";

type Backdrop = Lighting["backdrop"];

interface Props {
  backdrop: Backdrop;
  setBackdrop: (change: Partial<Backdrop>) => void;
}

/** Whether the surroundings lie on the floor, and which place of theirs is under the product. */
export function GroundFields({ backdrop, setBackdrop }: Props) {
  return (
    <>
      <Check
        label={t.theirLowerPartLies}
        checked={backdrop.grounded}
        onChange={(checked) => setBackdrop({ grounded: checked })}
      />
      {backdrop.grounded && (
        <>
          <Length
            label={t.takenFromAHeight}
            value={backdrop.viewpoint}
            onCommit={(viewpoint) => setBackdrop({ viewpoint: Math.min(1e6, Math.max(1, viewpoint)) })}
          />
          <Length
            label={t.groundReaches}
            value={backdrop.reach}
            onCommit={(reach) => setBackdrop({ reach: Math.min(1e7, Math.max(10, reach)) })}
          />
          {([t.toTheRight, t.toTheBack] as const).map((way, k) => (
            <Length
              key={way}
              label={t.slide(way)}
              value={backdrop.slide[k]!}
              onCommit={(value) => {
                const slide = backdrop.slide.map((old, j) => (j === k ? value : old)) as [number, number];
                setBackdrop({ slide });
              }}
            />
          ))}
          <p className="why">{t.aLowHeightMakes}</p>
        </>
      )}
    </>
  );
}

function Length(props: { label: string; value: number; onCommit: (value: number) => void }) {
  return (
    <div className="flex items-center justify-between">
      <span>{props.label}</span>
      <span className="w-[90px]">
        <NumberField {...props} unit={LENGTH} />
      </span>
    </div>
  );
}
