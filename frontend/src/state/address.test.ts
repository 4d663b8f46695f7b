import { expect, it } from "vitest";
import { deskOf, searchOf } from "./address";

it("says what is not as usual, and reads it again", () => {
  const desk = {
    sheet: "shots" as const,
    shot: "shot-2",
    filter: 'material:"steel 8.8" size<5',
    shownStill: "s1",
  };
  expect(deskOf(searchOf(desk))).toEqual(desk);
  expect(searchOf({ sheet: "parts", filter: " " })).toBe("");
});

it("leaves out what it does not know", () => {
  expect(deskOf("?sheet=cellar&other=1")).toEqual({});
});
