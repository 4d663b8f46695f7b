/** Words of desk/pointing.ts. */
export const thereIsNothingAt = "There is nothing at that spot. Click on the product or on the floor.";
export const theSurroundingsAreRotated = (turn: string | number) =>
  `The surroundings are rotated to ${turn}°: this spot mirrors a bright area now.`;
export const highlight = "Highlight";
export const shadow = "Shadow";
export const moved = (distanceTo: string | number) => `moved ${distanceTo}`;
export const butIsInThe = (part: string | number) => `, but ${part} is in the way.`;
export const clearLineOfSight = ", clear line of sight.";
export const here = (
  what: string | number,
  name: string | number,
  shift: string | number,
  what2: string | number,
) => `${what} here: ${name} ${shift}${what2}`;
export const thatIsTheFloor = "That is the floor. Click a face of the product.";
export const on = (part: string | number) => `on ${part}`;
export const sharpAway = (what: string | number, far: string | number) => `Sharp ${what}, ${far} away.`;
export const floorAndBackdropAre = "Floor and backdrop are as they are set. Click on the product.";
export const onlyAPartOf = "Only a part of the picture is traced. Click inside of it.";
export const itStaysTintedWhat = " It stays tinted: what was clicked may not be grey.";
export const whiteBalanceK = (white: string | number, rest: string | number) =>
  `White balance: ${white} K.${rest}`;
export const aDecalLiesOn = "A decal lies on a part. Click on the product.";
export const there = "there";
export const switchTheLampOn = "Switch the lamp on first: the colour is read from the traced picture.";
