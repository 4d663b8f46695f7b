/** Words of drawer/light/FloorAndBackdrop.tsx. */
export const radialGradient = "radial gradient";
export const floorAndBackdrop = "Floor and backdrop";
export const resetFloor = "Reset floor";
export const floor = "Floor";
export const backdrop = "Backdrop";
export const kindOfBackdrop = "Kind of backdrop";
export const colour = "Colour";
export const middleFloor = "Middle, floor";
export const bottomAndFloor = "Bottom and floor";
export const border = "Border";
export const top = "Top";
export const level = "Level";
export const blur = "Blur";
export const photoFile = "Photo file";
export const anotherPhoto = "Another photo…";
export const selectAPhoto = "Select a photo…";
export const placement = "Placement";
export const fillThePicture = "fill the picture";
export const wholePhoto = "whole photo";
export const scale = "Scale";
export const shift = (way: string | number) => `Shift ${way}`;
export const transparentStills = "Transparent stills";
export const stillsArePngFiles =
  "Stills are PNG files with product, shadow and reflection on nothing. Their shadow is exact over the colour above.";
export const aPlainFloorTakes = "A plain floor takes the colour of the backdrop.";
