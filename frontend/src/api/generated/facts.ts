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

/** Samples a pixel of each quality. */
export const SAMPLES = {"coarse": 16, "fair": 64, "fine": 256} as const;

/** Noise that is not seen after denoising, a share. */
export const CLEAN = 0.05 as const;

/** Qualities of a still. */
export const QUALITIES = ["coarse", "fair", "fine"] as const;

/** Groups of layers of an OpenEXR file. */
export const LAYER_GROUPS = ["raw", "lights", "kinds", "surface", "seen"] as const;

/** States of a part that is not shown. */
export const PART_STATES = ["hidden", "suppressed"] as const;

/** Metals by measured n and k. */
export const CONDUCTORS = {"Ag": "silver", "Al": "aluminium", "Au": "gold", "Be": "beryllium", "Cr": "chromium", "Cu": "copper", "Hg": "mercury", "Ir": "iridium", "Mo": "molybdenum", "Nb": "niobium", "Ni": "nickel", "Rh": "rhodium", "Ta": "tantalum", "TiN": "titanium nitride", "V": "vanadium", "W": "tungsten"} as const;

/** Pixels on a side beyond which a still is shown smaller. */
export const LOOKED_AT = 7680 as const;

/** Least and most on a side of a picture. */
export const PIXELS = [64, 16384] as const;

/** What a picture is for, and its pixels. */
export const PURPOSES = {"slide, 16:9": [1920, 1080], "slide, 4:3": [1600, 1200], "screen, large": [2560, 1440], "mail": [1280, 960], "square": [1200, 1200], "sheet A4, 300 dpi": [3508, 2480], "sheet A4 upright, 300 dpi": [2480, 3508], "sheet A3, 300 dpi": [4961, 3508], "sheet A4, 150 dpi": [1754, 1240], "sheet A2, 300 dpi": [7016, 4961], "sheet A1, 300 dpi": [9933, 7016], "sheet A0, 300 dpi": [14043, 9933]} as const;

/** mm, of the film that focal lengths are for. */
export const FILM_WIDTH = 36.0 as const;

/** mm, of a lens over that film. */
export const MOST_SHIFT = 360.0 as const;

/** The exposure at which the lightings are made. */
export const REFERENCE_EV = 9.3 as const;

/** cd/m² that are recorded as white at EV 0. */
export const WHITE_AT_EV_0 = 1.2 as const;

/** sRGB of luminance in false colours, from dark to bright, even in EV. */
export const LUMINANCE_RAMP = [[24, 28, 58], [40, 62, 120], [36, 104, 148], [38, 142, 142], [72, 170, 110], [150, 190, 84], [222, 200, 78], [236, 158, 64], [240, 196, 150], [252, 246, 232]] as const;

/** The floor as a new lighting has it. */
export const FLOOR_FINISH = {"kind": "plain", "appearance": null, "turn": 0.0, "reflection": 0.75, "roughness": 0.2, "shadow": 1.0, "lift": 0.0, "tilts": null} as const;

/** When and where the sun is put at first. */
export const SUN_TIME = {"date": "2026-06-21", "time": "15:00", "zone": 1.0, "latitude": 48.14, "longitude": 11.58, "north": 0.0, "turbidity": 3.0} as const;

/** Name, degrees north and east, and hours ahead of UTC without summer time. */
export const TOWNS = [["Auckland", -36.85, 174.76, 12], ["Bangalore", 12.97, 77.59, 5.5], ["Berlin", 52.52, 13.41, 1], ["Cape Town", -33.92, 18.42, 2], ["Chicago", 41.88, -87.63, -6], ["Dubai", 25.2, 55.27, 4], ["London", 51.51, -0.13, 0], ["Madrid", 40.42, -3.7, 1], ["Milan", 45.46, 9.19, 1], ["Munich", 48.14, 11.58, 1], ["New York", 40.71, -74.01, -5], ["Osaka", 34.69, 135.5, 9], ["Paris", 48.86, 2.35, 1], ["San Francisco", 37.77, -122.42, -8], ["S\u00e3o Paulo", -23.55, -46.63, -3], ["Shanghai", 31.23, 121.47, 8], ["Singapore", 1.35, 103.82, 8], ["Stockholm", 59.33, 18.07, 1], ["Sydney", -33.87, 151.21, 10], ["Warsaw", 52.23, 21.01, 1]] as const;

/** Fonts that drawings are set in, by name. */
export const FONTS = {"barlow": "Barlow", "barlow-bold": "Barlow, bold", "barlow-narrow": "Barlow, narrow", "mono": "Spline Sans Mono", "dejavu": "DejaVu Sans", "dejavu-bold": "DejaVu Sans, bold", "dejavu-serif": "DejaVu Serif"} as const;

/** Drawings as new ones begin, by kind. */
export const DRAWINGS = {"text": {"kind": "text", "text": "TYPE 40", "font": "barlow", "cap_height": 3.0, "color": "#14181C", "align": "left", "line": 1.25, "spacing": 0.0}, "qr": {"kind": "qr", "text": "https://example.org/40", "module": 0.5, "height": 10.0, "color": "#000000", "behind": "#FFFFFF"}, "code128": {"kind": "code128", "text": "https://example.org/40", "module": 0.5, "height": 10.0, "color": "#000000", "behind": "#FFFFFF"}, "arrow": {"kind": "arrow", "size": 20.0, "line": 0.12, "sweep": 120.0, "color": "#14181C"}, "turning arrow": {"kind": "turning arrow", "size": 20.0, "line": 0.12, "sweep": 120.0, "color": "#14181C"}, "warning": {"kind": "warning", "size": 20.0, "line": 0.12, "sweep": 120.0, "color": "#14181C"}, "voltage": {"kind": "voltage", "size": 20.0, "line": 0.12, "sweep": 120.0, "color": "#14181C"}, "scale line": {"kind": "scale line", "first": 0.0, "last": 10.0, "step": 1.0, "long_every": 2, "numbers": true, "length": 50.0, "radius": 12.0, "sweep": 270.0, "tick": 2.0, "cap_height": 1.8, "font": "barlow-narrow", "color": "#14181C"}, "scale arc": {"kind": "scale arc", "first": 0.0, "last": 10.0, "step": 1.0, "long_every": 2, "numbers": true, "length": 50.0, "radius": 12.0, "sweep": 270.0, "tick": 2.0, "cap_height": 1.8, "font": "barlow-narrow", "color": "#14181C"}} as const;

/** Colours of drawings in finishes that need another than the usual one. */
export const INKS = {"glow": "#FFFFFF", "dead_front": "#FFFFFF", "foil": "#DADBDC"} as const;

/** What a new decal is made of. */
export const DECAL_FINISH = {"kind": "print", "roughness": null, "light": 300.0, "lit": true, "relief": 0.15, "filled": false} as const;

/** Middle grey, of recorded white: contrast turns about it. */
export const GREY = 0.18 as const;

/** Weights of linear Rec. 709 in luminance. */
export const LUMINANCE = [0.2126, 0.7152, 0.0722] as const;

/** The filmic curve: Hable's a to f, his exposure bias, his white. */
export const FILMIC = {"curve": [0.15, 0.5, 0.1, 0.2, 0.02, 0.3], "bias": 2.0, "white": 11.2} as const;
