import {
  Circle,
  FileText,
  Globe,
  Grip,
  Lightbulb,
  Minus,
  RectangleHorizontal,
  Sparkles,
  Square,
  Sun,
} from "lucide-react";
import { Slider } from "radix-ui";
import { useEffect, useState } from "react";
import type { Lamp } from "../../api/client";
import { NumberField } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import * as t from "../../words/texts/schedules/lights/LightRow";

const ICONS = {
  surroundings: Globe,
  glow: Sparkles,
  panel: RectangleHorizontal,
  tube: Minus,
  spot: Lightbulb,
  point: Circle,
  distant: Sun,
  field: Grip,
  photometric: FileText,
  card: Square,
};

/** The columns of the schedule of lights. */
export function columns(narrow: boolean): string {
  return narrow
    ? "grid-cols-[24px_18px_1fr_52px_40px] px-2"
    : "grid-cols-[24px_20px_1fr_60px_42px_38px] px-3";
}

interface Props {
  kind: Lamp["kind"] | "surroundings" | "glow";
  name: string;
  words: string;
  on: boolean;
  /** EV. */
  level: number;
  /** Of the light in the traced picture. */
  share?: number;
  selected: boolean;
  /** In a drawer: no room for shares. */
  narrow?: boolean;
  most?: number;
  onSelect: () => void;
  onSwitch: (on: boolean) => void;
  onPreview?: (level: number) => void;
  onLevel: (level: number) => void;
}

/** A light of the schedule: switch, what it is, its level, and how much of the picture's light it gives. */
export function LightRow(props: Props) {
  const {
    kind,
    name,
    words,
    on,
    level,
    share,
    selected,
    narrow = false,
    most = 8,
    onSelect,
    onSwitch,
    onPreview,
    onLevel,
  } = props;
  const [shown, setShown] = useState(level);
  useEffect(() => setShown(level), [level]);
  const Icon = ICONS[kind];
  const tidy = (value: number) => Math.min(most, Math.max(-8, Math.round(value * 20) / 20));
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the list takes the keys
    <div
      role="row"
      aria-selected={selected}
      aria-label={`${name}, ${words}`}
      tabIndex={-1}
      className={`grid cursor-pointer items-center gap-1.5 border-b border-rule py-[6px] ${columns(narrow)} ${
        selected ? "bg-mark-soft shadow-[inset_3px_0_0_var(--color-mark)]" : "hover:bg-paper"
      }`}
      onClick={onSelect}
    >
      <span role="cell">
        <Hint text={on ? t.switchOff(name) : t.switchOn(name)}>
          <button
            type="button"
            role="switch"
            aria-checked={on}
            aria-label={name}
            className="grid h-6 w-6 cursor-pointer place-items-center rounded-full"
            onClick={(event) => {
              event.stopPropagation();
              onSwitch(!on);
            }}
          >
            <span
              className={`h-[13px] w-[13px] rounded-full border ${
                on
                  ? "border-lamp bg-lamp shadow-[0_0_0_2.5px_var(--color-lamp-soft)]"
                  : "border-ink-2 bg-transparent"
              }`}
            />
          </button>
        </Hint>
      </span>
      <Icon size={16} strokeWidth={1.5} aria-hidden="true" className={on ? "" : "text-ink-3"} />
      <span role="cell" className="min-w-0 leading-[1.25]">
        <span className="block truncate">{name}</span>
        <span className="why block truncate">{words}</span>
      </span>
      {kind === "card" ? (
        <span role="cell" className="why col-span-2">
          {t.lightsNothingByItself}
        </span>
      ) : (
        <>
          <span role="cell">
            <Slider.Root
              className="relative flex h-6 touch-none items-center"
              value={[Math.max(-6, shown)]}
              min={-6}
              max={Math.min(most, 6)}
              step={0.05}
              onClick={(event) => event.stopPropagation()}
              onValueChange={([value]) => {
                setShown(tidy(value ?? 0));
                onPreview?.(tidy(value ?? 0));
              }}
              onValueCommit={([value]) => onLevel(tidy(value ?? 0))}
            >
              <Slider.Track className="relative h-[3px] grow rounded-sm bg-rule-strong">
                <Slider.Range className={`absolute h-full rounded-sm ${on ? "bg-ink" : "bg-ink-3"}`} />
              </Slider.Track>
              <Slider.Thumb
                aria-label={t.levelOfEv(name)}
                className="grid h-6 w-6 cursor-ew-resize place-items-center"
              >
                <span className={`block h-[13px] w-[5px] rounded-[1px] ${on ? "bg-ink" : "bg-ink-3"}`} />
              </Slider.Thumb>
            </Slider.Root>
          </span>
          <span role="cell">
            <NumberField
              label={t.levelOf(name)}
              value={shown}
              digits={1}
              onCommit={(value) => onLevel(Math.min(most, Math.max(-8, value)))}
            />
          </span>
        </>
      )}
      {!narrow && (
        <span role="cell" className="figures text-right text-ink-2">
          {share === undefined ? "" : `${Math.round(share * 100)} %`}
        </span>
      )}
    </div>
  );
}
