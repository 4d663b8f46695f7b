import type { OpenPBR } from "../api/client";
import { CONDUCTORS } from "../api/generated/facts";
import { LENGTH } from "../ui/controls";
import * as t from "../words/texts/drawer/parameters";

type Params = Required<OpenPBR>;

/** One parameter of the drawer. */
export interface Row {
  name: keyof Params;
  label: string;
  kind?: "amount" | "color" | "switch" | "choice";
  min?: number;
  max?: number;
  step?: number;
  digits?: number;
  unit?: string;
  scale?: (value: number) => number;
  unscale?: (position: number) => number;
  choices?: [string, string][];
  /** Shown only where it has an effect. */
  when?: (p: Params) => boolean;
}

const glass = (p: Params) => p.transmission_weight > 0;
const solid = (p: Params) => !glass(p);
const logarithmic = { scale: Math.log10, unscale: (position: number) => 10 ** position, step: 0.01 };

const base: Row = { name: "base_color", label: t.baseColour, kind: "color" };
const metalness: Row = { name: "base_metalness", label: t.metalness };
const roughness: Row = { name: "specular_roughness", label: t.roughness };
const baseRoughness: Row = { name: "base_diffuse_roughness", label: t.diffuseRoughness };
const index: Row = { name: "specular_ior", label: t.refractiveIndex, min: 1, max: 2.5 };
const inDepth: Row = { name: "transmission_color", label: t.colourInDepth, kind: "color" };
const depth: Row = { name: "transmission_depth", label: t.depth, max: 200, step: 1, digits: 0, unit: LENGTH };
const coat: Row = { name: "coat_weight", label: t.coatWeight };
const coatRoughness: Row = {
  name: "coat_roughness",
  label: t.coatRoughness,
  when: (p) => p.coat_weight > 0,
};
const glowColor: Row = { name: "emission_color", label: t.glowColour, kind: "color" };
const glow: Row = {
  ...logarithmic,
  name: "emission_luminance",
  label: t.glow,
  min: 1,
  max: 20000,
  digits: 0,
  unit: "cd/m²",
};
const lit = (p: Params) => p.emission_luminance > 0;
const dark = {
  scale: (value: number) => Math.log10(Math.max(value, 0.5)),
  unscale: (position: number) => (position < Math.log10(0.7) ? 0 : 10 ** position),
};

/** What is asked for first, by kind of surface. */
export const SHORT: Row[] = [
  { ...base, when: solid },
  { ...metalness, when: solid },
  roughness,
  { ...baseRoughness, when: (p) => solid(p) && p.base_metalness < 1 },
  {
    name: "specular_roughness_anisotropy",
    label: t.brushed,
    when: (p) => p.specular_roughness_anisotropy > 0,
  },
  { ...index, when: (p) => p.base_metalness < 1 },
  { ...inDepth, when: glass },
  { ...depth, when: glass },
  { ...coat, when: solid },
  { ...coatRoughness, when: (p) => solid(p) && p.coat_weight > 0 },
  { ...glowColor, when: lit },
  { ...glow, when: lit },
];

/** The button that shows all of them, and the section that it opens. */
export const ALL_PARAMETERS = t.allParameters;

export const ALL: { name: string; rows: Row[] }[] = [
  {
    name: t.base,
    rows: [
      { name: "base_weight", label: t.weight },
      base,
      metalness,
      baseRoughness,
      {
        name: "base_conductor",
        label: t.measuredMetal,
        kind: "choice",
        choices: [["", "none"], ...Object.entries(CONDUCTORS)],
      },
    ],
  },
  {
    name: t.specular,
    rows: [
      { name: "specular_weight", label: t.weight },
      { name: "specular_color", label: t.colour, kind: "color" },
      roughness,
      { name: "specular_roughness_anisotropy", label: t.brushed },
      {
        name: "geometry_tangent_rotation",
        label: t.brushingTurned,
        min: -180,
        max: 180,
        step: 1,
        digits: 0,
        unit: "°",
        when: (p) => p.specular_roughness_anisotropy > 0,
      },
      index,
    ],
  },
  {
    name: t.transmission,
    rows: [
      { name: "transmission_weight", label: t.weight },
      { ...inDepth, when: glass },
      { ...depth, when: (p) => glass(p) && !p.geometry_thin_walled },
      { name: "geometry_thin_walled", label: t.thinWall, kind: "switch" },
    ],
  },
  {
    name: t.subsurface,
    rows: [
      { name: "subsurface_weight", label: t.weight },
      { name: "subsurface_color", label: t.colour, kind: "color", when: (p) => p.subsurface_weight > 0 },
      {
        ...logarithmic,
        name: "subsurface_radius",
        label: t.freePath,
        min: 0.01,
        max: 100,
        unit: LENGTH,
        when: (p) => p.subsurface_weight > 0 && !p.geometry_thin_walled,
      },
      {
        name: "subsurface_scatter_anisotropy",
        label: t.forwards,
        min: -0.95,
        max: 0.95,
        when: (p) => p.subsurface_weight > 0,
      },
    ],
  },
  {
    name: t.coat,
    rows: [
      coat,
      { name: "coat_color", label: t.colour, kind: "color", when: (p) => p.coat_weight > 0 },
      coatRoughness,
      { name: "coat_ior", label: t.refractiveIndex, min: 1, max: 2.5, when: (p) => p.coat_weight > 0 },
      { name: "coat_darkening", label: t.darkening, when: (p) => p.coat_weight > 0 },
    ],
  },
  {
    name: t.fuzzSheen,
    rows: [
      { name: "fuzz_weight", label: t.weight },
      { name: "fuzz_color", label: t.colour, kind: "color", when: (p) => p.fuzz_weight > 0 },
      { name: "fuzz_roughness", label: t.roughness, when: (p) => p.fuzz_weight > 0 },
    ],
  },
  {
    name: t.thinFilm,
    rows: [
      { name: "thin_film_weight", label: t.weight },
      {
        name: "thin_film_thickness",
        label: t.thickness,
        max: 2,
        step: 0.005,
        digits: 3,
        unit: "µm",
        when: (p) => p.thin_film_weight > 0,
      },
      {
        name: "thin_film_ior",
        label: t.refractiveIndex,
        min: 1,
        max: 3,
        when: (p) => p.thin_film_weight > 0,
      },
    ],
  },
  {
    name: t.glowAndOpacity,
    rows: [
      { ...glow, ...dark, min: 0 },
      { ...glowColor, when: lit },
      { name: "geometry_opacity", label: t.opacity },
    ],
  },
];
