import type { Up } from "./client";
import { BUNDLES, EXACT, MESHES, SIDE_FILES, UNITLESS, UPWARDS } from "./generated/facts";

export const ACCEPTED = [...EXACT, ...MESHES, ...BUNDLES, ...SIDE_FILES].join(",");

export interface Open {
  /** Tessellated here, so that the fineness can be chosen. */
  exact: boolean;
  /** Numbers without a unit. */
  unitless: boolean;
  /** The axis that most writers of the format have upwards; nothing where the format says. */
  up?: Up;
}

/** What has to be asked about a file by its name; nothing for one that cannot be taken in. */
export function openOf(name: string): Open | undefined {
  const ending = `.${name.toLowerCase().split(".").pop() ?? ""}`;
  const among = (endings: readonly string[]) => endings.includes(ending);
  // What a bundle holds shows when it is read.
  const bundle = among(BUNDLES);
  if (!bundle && !among(EXACT) && !among(MESHES)) return undefined;
  const up = (UPWARDS as Record<string, Up>)[ending];
  return { exact: bundle || among(EXACT), unitless: bundle || among(UNITLESS), up };
}
