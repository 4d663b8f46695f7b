/** Words of ui/LabFields.tsx. */
export const cielab = (label: string | number) => `${label}, CIELAB`;
export const cielabD65 = "CIELAB, D65";
export const noSrgbScreenCan =
  "No sRGB screen can show that colour; this is the nearest, channel by channel.";
