import type { Placement } from "../../api/client";
import { LENGTH, NumberField } from "../../ui/controls";
import * as t from "../../words/texts/drawer/model/PlacementFields";

interface Props {
  value: Placement;
  /** What it turns about when it gets its first number. */
  pivot: [number, number, number];
  onCommit: (value: Placement) => void;
}

const AXES = ["x", "y", "z"] as const;

/** Shift in mm and turn in degrees along and about the three axes. */
export function PlacementFields({ value, pivot, onCommit }: Props) {
  const { shift, turn } = value;
  const set = (name: "shift" | "turn", axis: number, amount: number) => {
    const next = [...(name === "shift" ? shift : turn)] as [number, number, number];
    next[axis] = amount;
    // Before anything was turned, the pivot may be chosen freely: the middle is what one expects to turn about.
    const untouched = turn.every((angle) => angle === 0);
    onCommit({ shift, turn, pivot: untouched ? pivot : value.pivot, [name]: next });
  };
  return (
    <div className="grid grid-cols-[44px_1fr_1fr_1fr] items-center gap-x-3 gap-y-1">
      <span className="why">{t.shift}</span>
      {AXES.map((axis, k) => (
        <NumberField
          key={axis}
          label={t.shiftAlong(axis)}
          value={shift[k]!}
          digits={2}
          unit={LENGTH}
          mark={axis}
          onCommit={(amount) => set("shift", k, amount)}
        />
      ))}
      <span className="why">{t.turn}</span>
      {AXES.map((axis, k) => (
        <NumberField
          key={axis}
          label={t.turnAboutDegrees(axis)}
          value={turn[k]!}
          digits={1}
          unit={`°${axis}`}
          onCommit={(amount) => set("turn", k, amount)}
        />
      ))}
    </div>
  );
}
