/** Words of drawer/model/FindingsList.tsx. */
export const nothingFound = "nothing found";
export const findings = "Findings";
export const everyPartThatIs = "Every part that is shown can be seen, and is there once.";
export const lookingWhichPartsCan = "Looking which parts can be seen…";
export const suppress = (one: boolean) => (one ? "Suppress it" : "Suppress them");
export const bringBack = (one: boolean) => (one ? "Bring it back" : "Bring them back");
export const selectThemWithThe = "Select them, with the rest drawn faint";
export const showWhich = "Show which";
export const looking = "looking…";
