/** Words of drawer/light/FloorFields.tsx. */
export const plainJoinsTheBackdrop = "plain, joins the backdrop";
export const sweepCurvedUpBehind = "sweep, curved up behind";
export const anAppearance = "an appearance";
export const kind = "Kind";
export const kindOfFloor = "Kind of floor";
export const madeOf = "Made of";
export const paperInTheColour = "paper in the colour below";
export const theSweepRisesBehind = "The sweep rises behind the product, as seen from here";
export const turnToTheView = "Turn to the view";
export const seenInTheTraced = "Seen in the traced picture and in stills.";
export const onlyItsReflection =
  "Transparent stills show its reflection, with its relief and roughness, and the shadow on it.";
export const aPlainFloor = "Transparent stills have a plain floor.";
export const reflection = "Reflection";
export const roughness = "Roughness";
export const shadow = "Shadow";
export const aboveTheLowestPart = "Above the lowest part";
export const heightOfTheFloor = "Height of the floor above the lowest part";
export const thenClickAPoint = "Then click a point of the product: the floor lies at its height";
export const floorAtThisHeight = "Floor at this height…";
export const tilt = "Tilt";
export const tiltOfTheFloor = "Tilt of the floor";
export const staysLevel = "stays level";
export const tiltedWith = (name: string) => `with ${name}`;
export const whereTheSurroundingsLie = "The surroundings lie on the floor, so it is level.";
export const tiltTheModel = "From now on the floor turns as this model is turned (Model).";
