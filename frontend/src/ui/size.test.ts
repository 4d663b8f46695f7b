import { describe, expect, it } from "vitest";
import { sizeWords } from "./size";

describe("a size in words", () => {
  it.each([
    [[5.02, 1.5, 2], "5.02 x 1.50 x 2.00"],
    [[76.2, 25.4, 2], "76.2 x 25.4 x 2.0"],
    [[743.03, 99.94, 9.996], "743 x 100 x 10"],
  ])("%s", (size, words) => expect(sizeWords(size)).toBe(words));
});
