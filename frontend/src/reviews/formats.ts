import type { Up } from "../api/client";

/** What the server takes in (see core/intake/formats.py), and what each leaves open. */
const EXACT = ["step", "stp", "p21", "iges", "igs", "brep", "brp"];
const MESHES = ["stl", "ply", "off", "obj", "glb", "gltf", "3mf", "dae"];
/** Several files that belong together; what they are shows when they are read. */
const BUNDLE = "zip";
const UNITLESS = ["brep", "brp", "stl", "ply", "off", "obj"];

export const ACCEPTED = [...EXACT, ...MESHES, BUNDLE, "mtl", "png", "jpg", "jpeg", "bin"]
  .map((suffix) => `.${suffix}`)
  .join(",");

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
  const suffix = name.toLowerCase().split(".").pop() ?? "";
  if (suffix === BUNDLE) return { exact: true, unitless: true, up: "z" };
  if (EXACT.includes(suffix)) return { exact: true, unitless: UNITLESS.includes(suffix) };
  if (!MESHES.includes(suffix)) return undefined;
  const up = ["glb", "gltf", "dae"].includes(suffix) ? undefined : suffix === "obj" ? "y" : "z";
  return { exact: false, unitless: UNITLESS.includes(suffix), up };
}
