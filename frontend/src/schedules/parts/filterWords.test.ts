import { describe, expect, it } from "vitest";
import { useLength } from "../../words/length";
import { completed, completions, term } from "./filterWords";

const FIELDS = [
  { name: "size", kind: "number" as const, values: [] },
  { name: "material", kind: "text" as const, values: ["steel 8.8", "brass", "stainless"] },
  { name: "Part number", kind: "text" as const, values: ["dp-1"] },
];

describe("completion of the filter", () => {
  it("offers fields, then the values of a field", () => {
    expect(completions("", FIELDS)).toEqual([]);
    expect(completions("screw mat", FIELDS)).toEqual(["material:"]);
    expect(completions("-si", FIELDS)).toEqual(["size<"]);
    expect(completions("part", FIELDS)).toEqual(['"Part number":']);
    expect(completions("material:st", FIELDS)).toEqual(['material:"steel 8.8"', "material:stainless"]);
    expect(completions("material:brass", FIELDS)).toEqual([]);
    expect(completions("nothing:st", FIELDS)).toEqual([]);
  });
  it("replaces the word that is being typed and nothing else", () => {
    expect(completed("screw mat", "material:")).toBe("screw material:");
    expect(completed("-material:st", 'material:"steel 8.8"')).toBe('-material:"steel 8.8" ');
    expect(completed('"Part number":d', '"Part number":dp-1')).toBe('"Part number":dp-1 ');
  });
  it("writes terms as one would type them", () => {
    expect(term(FIELDS[0]!, "< 5", false)).toBe("size<5");
    expect(term(FIELDS[0]!, "5", true)).toBe("-size=5");
    useLength.setState({ unit: "in" });
    expect(term(FIELDS[0]!, "< 5", false)).toBe("size<5in");
    expect(term(FIELDS[0]!, "< 5 cm", false)).toBe("size<5cm");
    useLength.setState({ unit: "mm" });
    expect(term(FIELDS[2]!, "dp 1", false)).toBe('"Part number":"dp 1"');
  });
});
