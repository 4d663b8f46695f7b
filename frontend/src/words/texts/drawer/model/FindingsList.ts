/** Words of drawer/model/FindingsList.tsx. */
export const nothingFound = "nothing found";
export const findings = "Findings";
export const everyPartThatIs = "Every part that is shown can be seen, and is there once.";
export const lookingWhichPartsCan = "Looking which parts can be seen…";
export const suppress = "Suppress";
export const bringBack = "Bring back";
export const selectThemWithThe = "Select them, with the rest drawn faint";
export const showWhich = "Show which";
export const it = "it";
export const them = "them";
export const looking = "looking…";
