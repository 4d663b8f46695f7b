import type { Lamp, Lighting, Standing } from "../api/client";
import { length, lengthNumber } from "../words/length";
import * as t from "../words/texts/state/lighting";

/** The lighting of a shot, with its id: the shot's own, or the one that the review shows. */
export function lightingOf({ scene }: Standing, shotId: string): { id: string; lighting: Lighting } {
  const own = scene.shots[shotId]?.lighting;
  const id = own && scene.lightings[own] ? own : scene.lit_by;
  return { id, lighting: scene.lightings[id]! };
}

/** Where a floor lies: its unit normal, and mm along it from the origin. */
export interface FloorPlane {
  up: [number, number, number];
  height: number;
}

/** The floor of a lighting, which may be previewed with another height. */
export function floorOf(standing: Standing, id: string, lighting: Lighting): FloorPlane {
  const { lift } = lighting.floor_finish;
  const tilted = standing.tilted[id];
  if (!tilted) return { up: [0, 0, 1], height: standing.floor + lift };
  const stored = standing.scene.lightings[id]!.floor_finish.lift;
  return { ...tilted, height: tilted.height + lift - stored };
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
  const whole = (value: number) => `${Math.round(value)}`;
  switch (lamp.kind) {
    case "panel":
      return lamp.round
        ? t.roundPanel(length(lamp.width, 0))
        : t.panelX(lengthNumber(lamp.width, 0), length(lamp.height, 0));
    case "tube":
      return t.tube(length(lamp.length, 0));
    case "spot":
      return t.spot(whole(2 * lamp.outer));
    case "point":
      return t.pointLm(whole(lamp.lumen));
    case "field":
      return t.bulbs(lamp.columns * lamp.rows);
    case "photometric":
      return t.byItsPhotometricFile;
    case "card":
      return t.cardX(lamp.surface, lengthNumber(lamp.width, 0), length(lamp.height, 0));
    case "distant":
      return t.farAwayHigh(whole(lamp.elevation));
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
