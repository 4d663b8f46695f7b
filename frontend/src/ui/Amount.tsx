import { Slider } from "radix-ui";
import { useEffect, useState } from "react";
import { NumberField } from "./controls";
import { Explained } from "./Explained";
import { helpOn } from "./help/help";

interface AmountProps {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  unit?: string;
  digits?: number;
  /** Position of the slider for a value; for quantities felt on another scale. */
  scale?: (value: number) => number;
  unscale?: (position: number) => number;
  disabled?: boolean;
  /** What there may be help on, see `help`. */
  topic?: string;
  onPreview?: (value: number) => void;
  onCommit: (value: number) => void;
}

/** What a number begins with. */
const TYPED = /^[\d.,-]$/;

/** A labelled quantity: slider and number field. Previews while dragged, commits once. */
export function Amount(props: AmountProps) {
  const { label, value, min, max, step, unit = "", digits = 2, disabled, onPreview, onCommit } = props;
  const scale = props.scale ?? ((v: number) => v);
  const unscale = props.unscale ?? ((v: number) => v);
  const [shown, setShown] = useState(value);
  useEffect(() => setShown(value), [value]);
  const clamp = (v: number) => Math.min(max, Math.max(min, Number(v.toFixed(4))));
  return (
    <div data-amount className="grid grid-cols-[96px_1fr_66px] items-center gap-2">
      <Explained label={label} topic={props.topic} className={disabled ? "text-ink-3" : ""} />
      <Slider.Root
        className="relative flex h-6 touch-none items-center"
        value={[scale(shown)]}
        min={scale(min)}
        max={scale(max)}
        step={step}
        disabled={disabled}
        onValueChange={([v]) => {
          const next = clamp(unscale(v ?? 0));
          setShown(next);
          onPreview?.(next);
        }}
        onValueCommit={([v]) => onCommit(clamp(unscale(v ?? 0)))}
      >
        <Slider.Track className="relative h-[3px] grow rounded-sm bg-rule-strong">
          <Slider.Range className="absolute h-full rounded-sm bg-ink data-disabled:bg-ink-3" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          aria-description={helpOn(props.topic)?.words}
          className="group grid h-6 w-6 cursor-ew-resize place-items-center"
          onKeyDown={(event) => {
            // What is typed on the slider is meant for the number beside it.
            if (!TYPED.test(event.key) || event.ctrlKey || event.metaKey || event.altKey) return;
            event.currentTarget.closest("[data-amount]")?.querySelector("input")?.focus();
            event.stopPropagation();
          }}
        >
          <span className="block h-[13px] w-[5px] rounded-[1px] bg-ink group-data-disabled:bg-ink-3" />
        </Slider.Thumb>
      </Slider.Root>
      <NumberField
        label={label}
        value={shown}
        digits={digits}
        unit={unit}
        disabled={disabled}
        onCommit={(v) => onCommit(clamp(v))}
      />
    </div>
  );
}
