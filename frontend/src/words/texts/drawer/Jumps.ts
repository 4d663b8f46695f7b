/** Words of drawer/Jumps.tsx. */
export const sectionsOfTheDrawer = "Sections of the drawer";
