/** Words of schedules/parts/columns.ts. */
export const definition = "Definition";
export const material = "Material";
export const kind = "Kind";
export const layer = "Layer";
export const size = "Size";
export const volumeCm = "Volume, cm³";
export const triangles = "Triangles";
export const offBy = "Off by";
export const why = "Why";
export const state = "State";
export const several = "several";
