/** Words of desk/BehindMenu.tsx. */
export const whatLiesHereFront = "What lies here, front to back";
export const frontToBack = "Front to back";
