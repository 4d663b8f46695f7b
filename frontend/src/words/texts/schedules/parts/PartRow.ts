/** Words of schedules/parts/PartRow.tsx. */
export const unfold = (name: string | number) => `Unfold ${name}`;
export const fold = (name: string | number) => `Fold ${name}`;
export const notInThisShot = "not in this shot";
export const suppressed = "suppressed";
export const different = (several: string | number) => `${several} different`;
export const noAppearanceYet = "no appearance yet";
export const cadColour = "CAD colour";
export const forACadColour = "for a CAD colour";
export const shownClickToHide = "Shown. Click to hide";
export const hiddenClickToShow = "Hidden. Click to show";
export const suppressedClickToBring = "Suppressed. Click to bring back";
export const someAreNotShown = "Some are not shown. Click to show all";
