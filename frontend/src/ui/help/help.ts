import * as t from "../../words/texts/ui/help/help";

/** What a setting does, in a sentence; its pictures show little of it and much. */
const WORDS = {
  specular_roughness: t.howFarTheSurface,
  base_metalness: t.no0IsPlasticOr,
  specular_roughness_anisotropy: t.howMuchMoreA,
  specular_ior: t.howStronglyAClear,
  transmission_depth: t.howDeepLightGoes,
  coat_weight: t.aClearLacquerOver,
  fuzz_weight: t.fineHairOnThe,
  subsurface_radius: t.howFarLightWanders,
  lens: t.aShortLensStands,
  aperture: t.aSmallFNumber,
  glare: t.lightThatTheLens,
  reflection: t.howMuchOfThe,
  shadow: t.howDarkTheShadow,
  rounding: t.sharpEdgesOfCad,
} as const;
export type Topic = keyof typeof WORDS;

const pictures = import.meta.glob<string>("./*.webp", {
  eager: true,
  query: "?url&no-inline",
  import: "default",
});

export interface Help {
  words: string;
  low: string;
  high: string;
}

/** What there is to say of a parameter or setting; nothing of most. */
export function helpOn(topic: string | undefined): Help | undefined {
  if (topic === undefined || !Object.hasOwn(WORDS, topic)) return undefined;
  return {
    words: WORDS[topic as Topic],
    low: pictures[`./${topic}-low.webp`]!,
    high: pictures[`./${topic}-high.webp`]!,
  };
}

export const TOPICS = Object.keys(WORDS) as Topic[];
