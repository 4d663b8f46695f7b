/** Numbers, days and times as the browser's language writes them. */

const forms = new Map<number, Intl.NumberFormat>();

/** A number with so many digits behind the point (or comma), as it may be typed again. */
export function decimals(value: number, digits = 0): string {
  let form = forms.get(digits);
  if (!form) {
    form = new Intl.NumberFormat(undefined, {
      minimumFractionDigits: digits,
      maximumFractionDigits: digits,
      useGrouping: false,
      signDisplay: "negative",
    });
    forms.set(digits, form);
  }
  return form.format(value);
}

/** A share as a percentage. */
export const percent = (share: number, digits = 0) => `${decimals(share * 100, digits)} %`;

const grouped = new Intl.NumberFormat(undefined, { maximumFractionDigits: 0 });

/** How many, with thousands apart. */
export const count = (value: number) => grouped.format(value);

/** A number in a sentence, with thousands apart and so many digits behind the point. */
export const asWritten = (value: number, digits: number) =>
  value.toLocaleString(undefined, { minimumFractionDigits: digits, maximumFractionDigits: digits });

/** A moment that the server tells, in UTC without saying so. */
const at = (utc: string) => new Date(/Z$|[+-]\d\d:?\d\d$/.test(utc) ? utc : `${utc}Z`);

export const day = (utc: string) => at(utc).toLocaleDateString();

export const moment = (utc: string) =>
  at(utc).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });

/** The number that somebody typed, with a point or a comma and perhaps its unit; nothing where it is none. */
export function parseNumber(text: string): number | undefined {
  const found = /^([+-]?(?:\d+[.,]?\d*|[.,]\d+)(?:e[+-]?\d+)?)[^\d.,]*$/i.exec(text.replace(/\s/g, ""));
  return found ? Number(found[1]!.replace(",", ".")) : undefined;
}
