/** Words of desk/CommandBox.tsx. */
export const selectedParts = "selected parts";
export const selectedLamp = "selected lamp";
export const selectedDecal = "selected decal";
export const findAnyAction = "Find any action";
export const findAnActionA = "Find an action, a setting, a part or a sample";
export const noMatchingActionSetting = "No matching action, setting, part or sample.";
export const select = (name: string | number) => `Select ${name}`;
export const apply = (name: string | number) => `Apply ${name}`;
export const selectPartsFirst = "Select parts first";
export const to = (parts: string | number) => `to ${parts}`;
export const parts = "Parts";
export const view = "View";
export const desk = "Desk";
export const keyboardShortcuts = "Keyboard shortcuts";
export const showTheGuidedStart = "Show the guided start";
export const itLeadsFromThe = "It leads from the file to the still, one hint at a time.";
export const inThePictureDrag =
  "In the picture: drag turns, right drag or Shift drag moves, the wheel zooms at the pointer, a click selects, Ctrl click adds, a double click zooms in. In the schedule: Shift click selects a run of rows, Alt Shift and letters go to the row that begins so.";
