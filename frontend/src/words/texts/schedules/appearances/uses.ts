/** Words of schedules/appearances/uses.ts. */
export const cadColour = "CAD colour";
export const noAppearanceYet = "No appearance yet";
