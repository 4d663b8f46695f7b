import { create } from "zustand";
import { asWritten, decimals } from "./numbers";

/** Lengths are kept in mm; they are shown, and typed without a unit, in the one that the person selects. */
export const UNITS = ["mm", "cm", "m", "in"] as const;
export type LengthUnit = (typeof UNITS)[number];

/** mm in one; an inch is 25.4 mm (international yard and pound agreement, 1959). */
const MM: Record<LengthUnit, number> = { mm: 1, cm: 10, m: 1000, in: 25.4 };
/** Digits behind the point that say as much as the last one of a value in mm. */
const FINER: Record<LengthUnit, number> = { mm: 0, cm: 1, m: 3, in: 2 };
const KEY = "usual-lamp-length";

const stored = (): LengthUnit => {
  const kept = globalThis.localStorage?.getItem(KEY) as LengthUnit | null;
  return kept && UNITS.includes(kept) ? kept : "mm";
};

export const useLength = create<{ unit: LengthUnit }>(() => ({ unit: stored() }));

export function selectUnit(unit: LengthUnit) {
  localStorage.setItem(KEY, unit);
  useLength.setState({ unit });
}

/** The number alone; `digits` are those of a value in mm. */
export const lengthNumber = (mm: number, digits = 1, unit = useLength.getState().unit): string =>
  decimals(mm / MM[unit], digits + FINER[unit]);

/** A length with its unit. */
export const length = (mm: number, digits = 1): string =>
  `${lengthNumber(mm, digits)} ${useLength.getState().unit}`;

/** A size as one reads it off a drawing: the smaller the whole, the more digits. */
export function sizeWords(millimetres: readonly number[]): string {
  const largest = Math.max(...millimetres);
  const digits = largest < 10 ? 2 : largest < 100 ? 1 : 0;
  const { unit } = useLength.getState();
  return `${millimetres.map((mm) => lengthNumber(mm, digits, unit)).join(" x ")} ${unit}`;
}

/** mm of a text that may name a unit of its own, as "1.5 in" or "3,2cm"; nothing where it is no length. */
export function parseLength(text: string, unit = useLength.getState().unit): number | undefined {
  const found = /^\s*([+-]?(?:\d+[.,]?\d*|[.,]\d+))\s*(mm|cm|m|in|")?\s*$/i.exec(text);
  if (!found) return undefined;
  const named = found[2]?.toLowerCase().replace('"', "in") as LengthUnit | undefined;
  return Number(found[1]!.replace(",", ".")) * MM[named ?? unit];
}

/** What the core said, with its lengths in the own unit and its numbers as the browser's language writes them. It puts a
 * narrow no-break space before the unit of a length, and a word joiner before a number. */
export const inOwnForm = (sentence: string): string =>
  sentence
    .replace(/([\d,]*\d)(?:\.(\d+))?\u202fmm/g, (_, whole: string, behind = "") =>
      length(Number(`${whole.replaceAll(",", "")}.${behind}`), behind.length),
    )
    .replace(
      /\u2060([+-]?)([\d,]*\d)(?:\.(\d+))?/g,
      (_, sign: string, whole: string, behind = "") =>
        `${sign}${asWritten(Number(`${whole.replaceAll(",", "")}.${behind}`), behind.length)}`,
    );
