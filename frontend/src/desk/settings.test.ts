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

test("settings of parts, lamps and decals ask for a selection", () => {
  const nothing = { parts: 0, lamp: false, decal: false };
  const blocked = (name: string, selected = {}) => blockedSetting(called(name), { ...nothing, ...selected });
  expect(blocked("Lay a decal")).toBe("Select parts first");
  expect(blocked("Lay a decal", { parts: 2 })).toBeUndefined();
  expect(blocked("Vignette")).toBeUndefined();
  expect(blocked("Colour of the lamp")).toBe("Select a lamp first");
  expect(blocked("Colour of the lamp", { lamp: true })).toBeUndefined();
  expect(blocked("Turn the decal", { parts: 1 })).toBe("Select a decal first");
  expect(blocked("Turn the decal", { parts: 1, decal: true })).toBeUndefined();
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
  useDesk.setState({ light: "lamp-2", sheet: "shots" });
  goToSetting(called("Colour of the lamp"));
  expect(useDesk.getState()).toMatchObject({ sheet: "lights", light: "lamp-2" });
});
