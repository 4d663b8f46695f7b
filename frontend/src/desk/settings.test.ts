import { expect, test } from "vitest";
import { ALL } from "../drawer/parameters";
import { useDesk } from "../state/deskStore";
import { blockedSetting, goToSetting, SETTINGS } from "./settings";

const called = (name: string) => SETTINGS.find((one) => one.name === name)!;

test("every setting has a name of its own and words that other people use", () => {
  const names = SETTINGS.map((one) => one.name);
  expect(new Set(names).size).toBe(names.length);
  expect(SETTINGS.filter((one) => one.also.trim() === "")).toEqual([]);
});

test("every parameter of an appearance is among them, told apart by its group", () => {
  const parameters = ALL.flatMap((group) => group.rows.map((row) => `parameter:${row.name}`));
  const fields = new Set(SETTINGS.map((one) => one.field));
  expect(parameters.filter((field) => !fields.has(field))).toEqual([]);
  expect(called("Coat: colour").field).toBe("parameter:coat_color");
  expect(called("Coat weight").instead).toBe("parameter:coat_weight");
});

test("settings of parts ask for a selection", () => {
  expect(blockedSetting(called("Lay a decal"), 0)).toBe("Select parts first");
  expect(blockedSetting(called("Lay a decal"), 2)).toBeUndefined();
  expect(blockedSetting(called("Vignette"), 0)).toBeUndefined();
});

test("going to one opens its sheet and its section", () => {
  Object.assign(globalThis, { requestAnimationFrame: () => 0 });
  useDesk.setState({
    sheet: "parts",
    shownStill: "s",
    light: "key",
    filter: "screw",
    chosen: new Set(["a"]),
  });
  goToSetting(called("Vignette"));
  expect(useDesk.getState()).toMatchObject({ sheet: "shots", shownStill: undefined, light: "key" });
  expect(useDesk.getState().sections["Contrast, vignette, glare"]).toBe(true);
  goToSetting(called("Kind of floor"));
  expect(useDesk.getState()).toMatchObject({ sheet: "lights", light: "surroundings", filter: "screw" });
  goToSetting(called("CAD colours"));
  expect(useDesk.getState()).toMatchObject({ sheet: "parts", filter: "" });
  expect(useDesk.getState().chosen.size).toBe(0);
});
