/** Name, field (of several, the one that is there), other words for it, section, and what brings the field. */
export type Row = [string, string, string, string?, string?];

/** Settings of the lamp that is selected. Fields that differ by its kind stand beside each other. */
export const LAMP: Row[] = [
  [
    "Light of the lamp",
    "Luminance|Intensity|Luminous flux|Illuminance|Flux of each bulb",
    "power lumen candela lux bright level",
  ],
  ["Colour of the lamp", "Colour", "kelvin temperature warm cold tint"],
  ["Filter of the lamp", "Filter, hex", "gel tint"],
  ["Size of the lamp", "Width|Length|Diameter|Size", "soft shadow area penumbra"],
  ["Position of the lamp", "Position x|Direction", "move place azimuth"],
  ["Where the lamp is aimed", "Aimed at x|Height", "target direction elevation"],
  ["The camera sees the lamp", "The camera sees it", "visible hide"],
  ["Shiny surfaces show the lamp", "Shiny surfaces show it", "reflection visible specular"],
  ["Place the lamp by its highlight", "Highlight here…", "reflection point glint"],
  ["Place the lamp by its shadow", "Shadow here…", "point cast"],
];

/** Settings of the decal that is selected. */
export const DECAL: Row[] = [
  ["Width of the decal", "Width of the decal", "size label scale"],
  ["Height of the decal", "Height of the decal", "size label scale"],
  ["Turn the decal", "Turn", "rotate label"],
  ["Opacity of the decal", "Opacity", "alpha see-through label"],
  ["Depth of the decal", "Depth", "reach projection label"],
  ["Faces of the decal", "Faces that the decal is kept to", "clip mask label"],
  ["Print behind glass", "To the far side", "decal label inner side back"],
  ["Finish of the decal", "Finish of the decal", "print foil engraved embossed glowing etched label"],
  ["Lock the decal", "Locked", "protect freeze label"],
  ["Mirror the decal", "Mirrored", "flip label"],
];
