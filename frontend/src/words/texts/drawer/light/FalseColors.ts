/** Words of drawer/light/FalseColors.tsx. */
export const showLuminance = "Show luminance";
export const cdM = (scale: string | number) => `${scale} cd/m²`;
export const crimsonIsClippedViolet = "Crimson is clipped, violet is black. Point at the picture to read it.";
export const aboutCdMUnder = (under: string | number) => `About ${under} cd/m² under the pointer.`;
