/** Words of schedules/appearances/Looks.tsx. */
export const looks = "Looks";
export const lookThatIsShown = "Look that is shown";
export const copyLook = "Copy look";
export const nameOfTheLook = "Name of the look";
export const remove = "Remove";
export const compareWith = "Compare with";
