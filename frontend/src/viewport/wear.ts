import { BufferGeometry, type MeshPhysicalMaterial } from "three";
import type { Appearance, Standing } from "../api/client";
import type { MeshForm, PartMesh } from "./meshblock";
import type { StagedPart } from "./stagedPart";

/** The appearances of a part and its faces. */
export function wearsOf({
  appearance,
  faces = {},
}: Pick<Standing["worn"][string], "appearance" | "faces">): string[] {
  return [appearance, ...Object.values(faces)];
}

/** The form of mesh that a part needs for the pictures that it wears; undefined for the plain one. */
export function formFor(
  { appearance, faces = {}, laid }: Standing["worn"][string],
  all: Record<string, Appearance>,
): MeshForm | undefined {
  if (
    !wearsOf({ appearance, faces }).some((id) =>
      all[id]?.textures?.some((texture) => texture.mapping !== "file"),
    )
  )
    return undefined;
  return laid ? `laid?how=${laid}` : "unrolled";
}

/** Gives a part its material, and faces that differ theirs. */
export function wear(
  part: StagedPart,
  whole: string,
  faces: Record<string, string>,
  material: (appearance: string) => MeshPhysicalMaterial,
) {
  const { source, mesh } = part;
  const ranges = source.faceRanges;
  disposeOwn(part);
  part.resting = undefined;
  source.surface.clearGroups();
  // A coarse stand-in has one face only: it wears what the whole part does.
  if (Object.keys(faces).length === 0 || ranges.length <= 2) {
    mesh.geometry = source.surface;
    mesh.material = material(whole);
    return;
  }
  const used = [material(whole)];
  mesh.geometry = inGroups(source, (face) => {
    const worn = material(faces[face] ?? whole);
    const slot = used.indexOf(worn);
    return slot < 0 ? used.push(worn) - 1 : slot;
  });
  mesh.material = used;
  part.ownGeometry = mesh.geometry;
}

/** A geometry with a group for each face. Definitions share their arrays; the groups of a part with coloured faces are
 * its own. */
export function inGroups(
  { surface, faceRanges }: PartMesh,
  slotOf: (face: number) => number,
): BufferGeometry {
  const geometry = new BufferGeometry();
  for (const [name, attribute] of Object.entries(surface.attributes)) geometry.setAttribute(name, attribute);
  geometry.setIndex(surface.index);
  for (let face = 0; face < faceRanges.length / 2; face++)
    geometry.addGroup(faceRanges[2 * face]! * 3, faceRanges[2 * face + 1]! * 3, slotOf(face));
  return geometry;
}

/** Frees the geometry that a part with coloured faces has of its own. Its arrays are the definition's, and stay. */
export function disposeOwn(part: StagedPart) {
  const { ownGeometry } = part;
  if (!ownGeometry) return;
  part.ownGeometry = undefined;
  freeGroups(ownGeometry);
}

/** Frees what `inGroups` made. Its buffers on the graphics card hang on the arrays, which others still draw with: only
 * what is its own may go. */
export function freeGroups(geometry: BufferGeometry) {
  for (const name of Object.keys(geometry.attributes)) geometry.deleteAttribute(name);
  geometry.setIndex(null);
  geometry.dispose();
}
