import { describe, expect, it } from "vitest";
import { staleAfter } from "./events";

const before = { id: "a", seq: 3, pulse: 7, stills: 2, removed: false };
const names = (news: Partial<typeof before>, was: typeof before | undefined = before) =>
  staleAfter({ ...before, ...news }, was).map(([name]) => name);

describe("what is fetched again", () => {
  it("is the list of stills alone while one is traced", () => {
    expect(names({ stills: 3 })).toEqual(["stills"]);
  });

  it("is not the model after edits", () => {
    expect(names({ seq: 5, pulse: 9 })).not.toContain("review");
    expect(names({ seq: 5, pulse: 9 })).toContain("findings");
  });

  it("is everything after other news, and after the first", () => {
    expect(names({ pulse: 8 })).toContain("review");
    expect(staleAfter(before, undefined).map(([name]) => name)).toContain("shelf");
  });
});
