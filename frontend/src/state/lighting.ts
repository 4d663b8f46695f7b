import type { Lamp, Lighting, Standing } from "../api/client";

/** The lighting of a shot, with its id: the shot's own, or the one that the review shows. */
export function lightingOf({ scene }: Standing, shotId: string): { id: string; lighting: Lighting } {
  const own = scene.shots[shotId]?.lighting;
  const id = own && scene.lightings[own] ? own : scene.lit_by;
  return { id, lighting: scene.lightings[id]! };
}

/** A lamp with a place in the scene, not one far away. */
export type StandingLamp = Exclude<Lamp, { kind: "distant" }>;

export function stands(lamp: Lamp | undefined): lamp is StandingLamp {
  return lamp !== undefined && lamp.kind !== "distant";
}

/** A key that no lamp of the lighting has. */
export function freshId(taken: Record<string, unknown>, wish: string): string {
  if (!(wish in taken)) return wish;
  return `${wish.slice(0, 20)}-${crypto.randomUUID().slice(0, 8)}`;
}

/** What a lamp is, in a few words: "panel 400 x 600 mm". */
export function lampWords(lamp: Lamp): string {
  const mm = (value: number) => `${Math.round(value)}`;
  switch (lamp.kind) {
    case "panel":
      return lamp.round
        ? `round panel ${mm(lamp.width)} mm`
        : `panel ${mm(lamp.width)} x ${mm(lamp.height)} mm`;
    case "tube":
      return `tube ${mm(lamp.length)} mm`;
    case "spot":
      return `spot ${mm(2 * lamp.outer)}°`;
    case "point":
      return `point, ${mm(lamp.lumen)} lm`;
    case "field":
      return `${lamp.columns * lamp.rows} bulbs`;
    case "photometric":
      return "by its photometric file";
    case "card":
      return `${lamp.surface} card ${mm(lamp.width)} x ${mm(lamp.height)} mm`;
    case "distant":
      return `far away, ${mm(lamp.elevation)}° high`;
  }
}

/** The scene as it would be if a shot had a lighting of its own. */
export function litBy(standing: Standing, shotId: string, lighting: string): Standing {
  const { scene } = standing;
  const shot = { ...scene.shots[shotId]!, lighting };
  return { ...standing, scene: { ...scene, shots: { ...scene.shots, [shotId]: shot } } };
}

/** The lightings of a review as they are listed. */
export function inOrder(lightings: Record<string, Lighting>): [string, Lighting][] {
  return Object.entries(lightings).sort(([, a], [, b]) => a.place - b.place);
}
