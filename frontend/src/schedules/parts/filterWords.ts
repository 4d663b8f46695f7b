import type { FilterField } from "../../api/assembly";
import { useLength } from "../../words/length";

/** The last word of a filter, which is the one being typed: where it starts, and whether its value has begun. */
function last(text: string): { start: number; minus: string; field?: string; value: string } {
  const match = /(-?)(?:("[^"]*"|[^\s:<>="]+)([:<>=]))?("[^"]*|[^\s"]*)$/.exec(text)!;
  return { start: match.index, minus: match[1]!, field: match[2]?.replaceAll('"', ""), value: match[4]! };
}

const bare = (name: string) => name.toLowerCase().replace(/[\s_-]+/g, "");
const quoted = (text: string) => (/[\s:<>=]/.test(text) ? `"${text}"` : text);

/** What the word being typed may become: fields first, then the values that a field has. */
export function completions(text: string, fields: FilterField[]): string[] {
  const { field, value } = last(text);
  const begun = value.replaceAll('"', "").toLowerCase();
  if (field === undefined) {
    if (!begun) return [];
    return fields
      .filter((one) => bare(one.name).startsWith(bare(begun)))
      .map((one) => `${quoted(one.name)}${one.kind === "number" ? "<" : ":"}`);
  }
  const known = fields.find((one) => bare(one.name) === bare(field));
  return (known?.values ?? [])
    .filter((one) => one.toLowerCase().includes(begun) && one.toLowerCase() !== begun)
    .slice(0, 12)
    .map((one) => `${quoted(known!.name)}:${quoted(one)}`);
}

/** The filter with its last word replaced. */
export function completed(text: string, offer: string): string {
  const { start, minus } = last(text);
  return `${text.slice(0, start)}${minus}${offer}${/[:<>=]$/.test(offer) ? "" : " "}`;
}

/** A term for a field, as one would type it; a size without a unit is in the own one, and says so. */
export function term(field: FilterField, value: string, not: boolean): string {
  const minus = not ? "-" : "";
  if (field.kind === "number") {
    const compact = value.replace(/\s/g, "");
    const { unit } = useLength.getState();
    const own = field.name === "size" && unit !== "mm" && /\d$/.test(compact) ? unit : "";
    return `${minus}${quoted(field.name)}${/^[<>=]/.test(compact) ? compact : `=${compact}`}${own}`;
  }
  return `${minus}${quoted(field.name)}:${quoted(value)}`;
}
