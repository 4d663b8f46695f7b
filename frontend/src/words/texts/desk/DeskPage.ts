/** Words of desk/DeskPage.tsx. */
export const usualLamp = (name: string | number) => `${name} · Usual Lamp`;
export const usualLamp2 = "Usual Lamp";
export const opening = "Opening…";
export const drawer = "Drawer";
export const findAnyAction = "Find any action";
export const schedules = "Schedules";
