import { expect, it } from "vitest";
import { scriptsIn } from "./scripts";

it("tells the scripts of names, so that their typefaces are fetched and no others", () => {
  expect(scriptsIn("Socket head screw, Gehäuse, écrou, żółty")).toEqual([]);
  expect(scriptsIn("Корпус насоса")).toEqual(["greek and cyrillic"]);
  expect(scriptsIn("Άξονας")).toEqual(["greek and cyrillic"]);
  expect(scriptsIn("六角ボルト M6")).toEqual(["japanese"]);
  expect(scriptsIn("泵体")).toEqual(["chinese"]);
  expect(scriptsIn("펌프 본체, 泵体")).toEqual(["korean", "chinese"]);
});
