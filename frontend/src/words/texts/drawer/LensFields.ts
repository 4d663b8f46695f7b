/** Words of drawer/LensFields.tsx. */
export const no44MmMediumFormat = "44 mm, medium format";
export const no36MmFullFrame = "36 mm, full frame";
export const no236MmAps = "23.6 mm, APS-C";
export const no173MmFour = "17.3 mm, four thirds";
export const no132MmOne = "13.2 mm, one inch";
export const depthOfFieldShift = "Depth of field, shift, roll and cut";
export const aperture = "Aperture";
export const noBlur = "no blur";
export const focus = "Focus";
export const focusByAClick = "Focus by a click";
export const onTheMiddle = "On the middle";
export const tintWhatIsSharp = "Tint what is sharp";
export const sharpFromToInfinity = (near: string | number) => `Sharp from ${near} to infinity.`;
export const sharpFromToOver = (near: string | number, far: string | number, far2: string | number) =>
  `Sharp from ${near} to ${far}, over ${far2}.`;
export const hyperfocalDistanceM = (what: string | number, hyperfocal: string | number) =>
  `${what} Hyperfocal distance ${hyperfocal} m.`;
export const sensor = "Sensor";
export const mmCropped = (sensor: string | number) => `${sensor} mm, cropped`;
export const apertureBlades = "Aperture blades";
export const theShadedPictureIs =
  "The shaded picture is sharp throughout; the lamp and stills show the blur.";
export const shift = "Shift";
export const shiftToTheRight = "Shift to the right";
export const shiftUpwards = "Shift upwards";
export const roll = "Roll";
export const cutAwayWhatIs = "Cut away what is nearest…";
export const cutUpTo = "Cut up to";
export const noCut = "No cut";
