/** Words of schedules/shots/ShotRow.tsx. */
export const theShotIsRemoved = (name: string | number) =>
  `The shot “${name}” is removed; its stills stay. Undo brings it back.`;
export const onTheDesk = "on the desk";
export const noStillYet = "no still yet";
export const hiddenHereOnly = (hidden: string | number, what: string | number) =>
  `${hidden} ${what} hidden here only`;
export const nameOfTheShot = "Name of the shot";
export const noLongerBeside = (name: string | number) => `No longer beside: ${name}`;
export const showBesideTheDesk = (name: string | number) => `Show ${name} beside the desk`;
export const onlyTheDeskAgain = "Only the desk again";
export const showItBesideThe = "Show it beside the shot on the desk";
export const unlock = (name: string | number) => `Unlock ${name}`;
export const lock = (name: string | number) => `Lock ${name}`;
export const lockedItCannotBe = "Locked: it cannot be changed. Unlock";
export const lockItCannotBe = "Lock: it cannot be changed by accident";
export const copy = (name: string | number) => `Copy ${name}`;
export const copy2 = "Copy";
export const remove = (name: string | number) => `Remove ${name}`;
export const lockedUnlockItTo = "Locked: unlock it to remove it";
export const remove2 = "Remove";
export const aReviewKeepsOne = "A review keeps one shot";
export const mm = (focalLength: string | number) => `${focalLength} mm`;
export const part = "part";
export const parts = "parts";
