/** What a setting does, in a sentence; its pictures show little of it and much. */
const WORDS = {
  specular_roughness: "How far the surface spreads what it mirrors: 0 is a mirror, 0.6 is matt.",
  base_metalness: "0 is plastic or paint, 1 is metal: metal mirrors in its own colour.",
  specular_roughness_anisotropy:
    "How much more a brushed surface spreads light across its lines than along them.",
  specular_ior:
    "How strongly a clear body bends light, and how much its surface mirrors: water 1.33, glass 1.5.",
  transmission_depth: "How deep light goes before it has the colour below. Shallow is strongly tinted.",
  coat_weight: "A clear lacquer over the surface: it mirrors sharply, whatever is beneath.",
  fuzz_weight: "Fine hair on the surface, as on felt or soft-touch: edges turn bright.",
  subsurface_radius: "How far light wanders beneath the surface: far is milky, like wax or silicone.",
  lens: "A short lens stands near and exaggerates depth; a long one stands back and flattens it.",
  aperture: "A small f-number leaves little sharp before and behind the point of focus.",
  glare: "Light that the lens spreads around bright points. None is added.",
  reflection: "How much of the product the floor mirrors.",
  shadow: "How dark the shadow on the floor is; 1 is what the light gives.",
  rounding: "Sharp edges of CAD, rounded for the light: real edges catch it.",
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
