/** Words of schedules/shots/ShotsSheet.tsx. */
export const shots = "Shots";
export const aFurtherShotOtherwise = "A further shot, otherwise as the one on the desk";
export const saveThisViewAs = "Save this view as a shot";
export const stillsOfThisShot = "Stills of this shot";
export const allStills = (stills: string | number) => `All stills, ${stills}`;
export const noStillHasBeen = "No still has been taken of it yet.";
export const takeStill = "Take still";
export const tracesTheShotThe =
  "traces the shot; the picture appears here and gets finer while you go on working.";
