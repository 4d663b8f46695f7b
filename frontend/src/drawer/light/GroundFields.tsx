import type { Lighting } from "../../api/client";
import { Check, LENGTH, NumberField } from "../../ui/controls";

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
        label="Their lower part lies on the floor"
        checked={backdrop.grounded}
        onChange={(checked) => setBackdrop({ grounded: checked })}
      />
      {backdrop.grounded && (
        <>
          <Length
            label="Taken from a height of"
            value={backdrop.viewpoint}
            onCommit={(viewpoint) => setBackdrop({ viewpoint: Math.min(1e6, Math.max(1, viewpoint)) })}
          />
          <Length
            label="Ground reaches"
            value={backdrop.reach}
            onCommit={(reach) => setBackdrop({ reach: Math.min(1e7, Math.max(10, reach)) })}
          />
          {(["to the right", "to the back"] as const).map((way, k) => (
            <Length
              key={way}
              label={`Slide ${way}`}
              value={backdrop.slide[k]!}
              onCommit={(value) => {
                const slide = backdrop.slide.map((old, j) => (j === k ? value : old)) as [number, number];
                setBackdrop({ slide });
              }}
            />
          ))}
          <p className="why">
            A low height makes the place large beside the product. Rotate turns it. Seen in the traced picture
            and in stills.
          </p>
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
