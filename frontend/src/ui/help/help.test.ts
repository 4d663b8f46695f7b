import { expect, it } from "vitest";
import { helpOn, TOPICS } from "./help";

it("has a sentence and both pictures of all that it explains, and says nothing of the rest", () => {
  for (const topic of TOPICS) {
    const { words, low, high } = helpOn(topic)!;
    expect(words).toMatch(/\.$/);
    expect(low, topic).toContain(`${topic}-low`);
    expect(high, topic).toContain(`${topic}-high`);
  }
  expect(helpOn("base_color")).toBeUndefined();
  expect(helpOn(undefined)).toBeUndefined();
  expect(helpOn("toString")).toBeUndefined();
});
