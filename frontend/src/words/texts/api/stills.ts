/** Words of api/stills.ts. */
export const png8Bit = "PNG, 8 bit";
export const png16Bit = "PNG, 16 bit";
export const webp = "WebP";
export const tiff16Bit = "TIFF, 16 bit";
export const openexrLinear = "OpenEXR, linear";
export const firstShot = "first shot";
export const lookRemoved = "look removed";
export const lightingRemoved = "lighting removed";
export const theServerAnswered = (status: string | number) => `The server answered ${status}.`;
