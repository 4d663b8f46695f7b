/** Words of drawer/Decals.tsx. */
export const decal = "Decal";
export const decals = "Decals";
export const decalFile = "Decal file";
export const fromAFile = "From a file…";
export const drawADecal = "Draw a decal";
export const drawOne = "Draw one…";
export const aLabelLogoOr =
  "A label, logo or marking: from a picture, SVG or PDF, or drawn here. Then click where it shall lie.";
export const page = "Page";
export const pageOf = (pages: string | number) => `Page, of ${pages}`;
export const show = (name: string | number) => `Show ${name}`;
export const allDecals = "All decals";
export const decals2 = (decals: string | number) => `Decals, ${decals}`;
export const waitsItsPartIs = "waits: its part is gone";
export const waitsItsFaceOn = (part: string | number) => `waits: its face on ${part} is gone`;
export const on = (part: string | number) => `on ${part}`;
export const show2 = "Show";
export const putOnAgain = "Put on again…";
export const remove = "Remove";
