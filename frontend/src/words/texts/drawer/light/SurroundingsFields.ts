/** Words of drawer/light/SurroundingsFields.tsx. */
export const surroundings = "Surroundings";
export const reset = "Reset";
export const brightness = "Brightness";
export const rotate = "Rotate";
export const tilt = "Tilt";
export const contrast = "Contrast";
export const saturation = "Saturation";
export const tint = "Tint";
export const groundInAColour = "Ground in a colour of its own";
export const ground = "Ground";
export const itFollowsTheFirst =
  "It follows the first sun among the lamps, switched on or off: its direction, date, place and haze.";
export const thenClickAnEdge =
  "Then click an edge or a face: the surroundings rotate until a bright area is mirrored there. Alt drag in the picture rotates them by hand.";
export const rotateUntilThisShines = "Rotate until this shines…";
