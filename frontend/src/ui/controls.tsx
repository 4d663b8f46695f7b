import { type ButtonHTMLAttributes, type ComponentProps, type ReactNode, useState } from "react";
import { lengthNumber, parseLength, useLength } from "../words/length";
import { decimals, parseNumber } from "../words/numbers";
import * as t from "../words/texts/ui/controls";
import { Explained } from "./Explained";
import { Hint } from "./Hint";

type ButtonProps = ComponentProps<"button"> & { look?: "mark" | "plain" | "ink" | "text" };

const LOOKS = {
  mark: "border border-mark bg-white text-mark hover:bg-mark-soft",
  plain: "border border-rule-strong bg-white hover:bg-sheet",
  ink: "border border-ink bg-ink text-white hover:bg-ink/90",
  text: "text-mark underline-offset-2 hover:underline !px-0",
};

export function Button({ look = "plain", className = "", ...rest }: ButtonProps) {
  return (
    <button
      type="button"
      className={`h-[27px] cursor-pointer whitespace-nowrap rounded-md px-2.5 font-medium disabled:cursor-default disabled:opacity-45 ${LOOKS[look]} ${className}`}
      {...rest}
    />
  );
}

interface IconButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  label: string;
  keys?: string;
  /** What the hint says, where that is more than the label. */
  hint?: string;
}

export function IconButton({ label, keys, hint = label, className = "", ...rest }: IconButtonProps) {
  return (
    <Hint text={hint} keys={keys}>
      <button
        type="button"
        aria-label={label}
        className={`grid h-7 w-7 cursor-pointer place-items-center rounded-md text-ink-2 hover:bg-sunk hover:text-ink disabled:cursor-default disabled:opacity-35 ${className}`}
        {...rest}
      />
    </Hint>
  );
}

interface ChoiceProps {
  label: string;
  /** For those who do not see the row. */
  title?: string;
  value: string | number;
  choices: readonly (readonly [string | number, string])[];
  disabled?: boolean;
  /** What there may be help on, see `help`. */
  topic?: string;
  onChange: (name: string) => void;
}

/** A labelled row with a few named values. */
export function Choice({ label, title = label, value, choices, disabled, topic, onChange }: ChoiceProps) {
  return (
    <div className="flex items-center justify-between gap-2">
      <Explained label={label} topic={topic} className={`shrink-0 ${disabled ? "text-ink-3" : ""}`} />
      <select
        aria-label={title}
        className="h-7 min-w-0 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5 disabled:cursor-default"
        value={value}
        disabled={disabled}
        onChange={(event) => onChange(event.target.value)}
      >
        {choices.map(([name, words]) => (
          <option key={name} value={name}>
            {words}
          </option>
        ))}
      </select>
    </div>
  );
}

interface NumberFieldProps {
  label: string;
  value: number;
  digits?: number;
  unit?: string;
  /** Shown in the unit's place, as the name of an axis. */
  mark?: string;
  disabled?: boolean;
  onCommit: (value: number) => void;
}

/** A number with its unit; Enter or leaving it commits, Escape takes it back. */
export function NumberField(props: NumberFieldProps) {
  const { label, value, digits = 0, unit = "", mark, disabled, onCommit } = props;
  const own = useLength((state) => state.unit);
  const isLength = unit === LENGTH;
  const text = isLength ? lengthNumber(value, digits, own) : decimals(value, digits);
  const shownUnit = mark ?? (isLength ? own : unit);
  const [draft, setDraft] = useState<string>();
  const commit = () => {
    const parsed = isLength ? parseLength(draft ?? "", own) : parseNumber(draft ?? "");
    if (draft !== undefined && draft !== text && parsed !== undefined && parsed !== value) onCommit(parsed);
    setDraft(undefined);
  };
  return (
    <span className="figures flex items-baseline justify-end gap-1 border-b border-rule-strong pb-px">
      <input
        aria-label={label}
        inputMode="decimal"
        disabled={disabled}
        className="min-h-6 w-full min-w-0 bg-transparent text-right disabled:text-ink-3"
        value={draft ?? text}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") setDraft(undefined);
          event.stopPropagation();
        }}
      />
      {shownUnit && <span className="text-ink-2">{shownUnit}</span>}
    </span>
  );
}

/** The unit of values that are kept in mm and shown in the unit that the person selects. */
export const LENGTH = "length";

interface ColorFieldProps {
  label: string;
  value: string;
  disabled?: boolean;
  onPreview?: (hex: string) => void;
  onCommit: (hex: string) => void;
}

/** A colour as sRGB hex: picker and text. */
export function ColorField({ label, value, disabled, onPreview, onCommit }: ColorFieldProps) {
  const [draft, setDraft] = useState<string>();
  const shown = draft ?? value;
  const valid = /^#?[0-9a-fA-F]{6}$/.test(shown);
  const commit = (text: string) => {
    const hex = `#${text.replace("#", "").toUpperCase()}`;
    if (/^#[0-9A-F]{6}$/.test(hex) && hex !== value.toUpperCase()) onCommit(hex);
    setDraft(undefined);
  };
  return (
    <div className="grid grid-cols-[96px_1fr_66px] items-center gap-2">
      <span>{label}</span>
      <input
        type="color"
        aria-label={t.picker(label)}
        disabled={disabled}
        className="h-[17px] w-full cursor-pointer border border-rule-strong bg-transparent p-0 [&::-webkit-color-swatch]:border-0 [&::-webkit-color-swatch-wrapper]:p-0"
        value={valid ? (shown.startsWith("#") ? shown : `#${shown}`) : value}
        onChange={(event) => {
          setDraft(event.target.value.toUpperCase());
          onPreview?.(event.target.value);
        }}
        onBlur={() => draft !== undefined && commit(draft)}
      />
      <input
        aria-label={t.hex(label)}
        disabled={disabled}
        className={`figures w-full border-b bg-transparent pb-px text-right ${valid ? "border-rule-strong" : "border-stop"}`}
        value={shown.toUpperCase()}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={() => commit(shown)}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") setDraft(undefined);
          event.stopPropagation();
        }}
      />
    </div>
  );
}

interface CheckProps {
  label: ReactNode;
  checked: boolean;
  onChange: (checked: boolean) => void;
}

/** A box to tick, with its words. */
export function Check({ label, checked, onChange }: CheckProps) {
  return (
    <label className="flex min-h-6 items-center gap-1.5">
      <input type="checkbox" checked={checked} onChange={(event) => onChange(event.target.checked)} />
      {label}
    </label>
  );
}

export function Mark() {
  return (
    <svg width="24" height="20" viewBox="0 0 24 20" aria-hidden="true">
      <path d="M3 11a9 9 0 0 1 18 0z" fill="#23272E" />
      <path d="M8 13.2h8" stroke="#E4931B" strokeWidth="2.4" strokeLinecap="round" />
      <path d="M2 18.5h20" stroke="#23272E" strokeWidth="1.6" />
    </svg>
  );
}
