// Generated from the core by `python -m usual_lamp.web.openapi`. Do not edit.

/** Endings of files with exact surfaces, tessellated when they are imported. */
export const EXACT = [".step", ".stp", ".p21", ".iges", ".igs", ".brep", ".brp"] as const;

/** Endings of files that hold triangles. */
export const MESHES = [".stl", ".ply", ".off", ".obj", ".glb", ".gltf", ".3mf", ".dae"] as const;

/** Endings of files that hold several. */
export const BUNDLES = [".zip"] as const;

/** Endings of what such files refer to. */
export const SIDE_FILES = [".mtl", ".png", ".jpg", ".jpeg", ".bin"] as const;

/** Endings of files whose numbers have no unit. */
export const UNITLESS = [".brep", ".brp", ".obj", ".off", ".ply", ".stl"] as const;

/** The axis that most writers of a format have upwards, where it does not say. */
export const UPWARDS = {".obj": "y", ".stl": "z", ".ply": "z", ".off": "z", ".3mf": "z", ".zip": "z"} as const;

/** Units of a file. */
export const UNITS = ["as written", "mm", "cm", "m", "inch"] as const;

/** Axes that may point up in a file. */
export const UPS = ["as written", "z", "y"] as const;

/** Qualities of a still. */
export const QUALITIES = ["coarse", "fair", "fine"] as const;

/** States of a part that is not shown. */
export const PART_STATES = ["hidden", "suppressed"] as const;

/** Metals by measured n and k. */
export const CONDUCTORS = {"Ag": "silver", "Al": "aluminium", "Au": "gold", "Be": "beryllium", "Cr": "chromium", "Cu": "copper", "Hg": "mercury", "Ir": "iridium", "Mo": "molybdenum", "Nb": "niobium", "Ni": "nickel", "Rh": "rhodium", "Ta": "tantalum", "TiN": "titanium nitride", "V": "vanadium", "W": "tungsten"} as const;

/** mm, of the film that focal lengths are for. */
export const FILM_WIDTH = 36.0 as const;

/** The exposure at which the lightings are made. */
export const REFERENCE_EV = 9.3 as const;

/** cd/m² that are recorded as white at EV 0. */
export const WHITE_AT_EV_0 = 1.2 as const;

/** The filmic curve: Hable's a to f, his exposure bias, his white. */
export const FILMIC = {"curve": [0.15, 0.5, 0.1, 0.2, 0.02, 0.3], "bias": 2.0, "white": 11.2} as const;
