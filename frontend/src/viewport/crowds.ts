import { type BufferGeometry, type Group, InstancedMesh, type Material } from "three";
import type { StagedPart } from "./stagedPart";

/** Parts of one shape in one appearance, from which on they are drawn in one call. */
const FEWEST = 3;

/** Draws parts that share shape and appearance together, so that the number of calls grows with kinds, not with parts. */
export class Crowds {
  private drawn = new Map<string, InstancedMesh>();

  constructor(private readonly product: Group) {}

  /**
   * Puts what is visible into the scene, alone or in a crowd. `joins` says which materials may be drawn together: clear
   * ones are drawn one after the other, back to front.
   */
  arrange(parts: Iterable<StagedPart>, joins: (material: Material) => boolean) {
    const alone: StagedPart[] = [];
    const crowds = new Map<BufferGeometry, Map<Material, StagedPart[]>>();
    for (const part of parts) {
      const { geometry, material, visible } = part.mesh;
      if (!visible) continue;
      if (Array.isArray(material) || !joins(material)) {
        alone.push(part);
        continue;
      }
      const by = crowds.get(geometry) ?? new Map<Material, StagedPart[]>();
      const members = by.get(material) ?? [];
      members.push(part);
      crowds.set(geometry, by.set(material, members));
    }
    const before = this.drawn;
    this.drawn = new Map();
    this.product.clear();
    for (const [geometry, by] of crowds)
      for (const [material, members] of by) {
        if (members.length < FEWEST) alone.push(...members);
        else this.product.add(this.crowd(geometry, material, members, before));
      }
    if (alone.length) this.product.add(...alone.map((part) => part.group));
    for (const [key, mesh] of before) if (this.drawn.get(key) !== mesh) mesh.dispose();
  }

  private crowd(
    geometry: BufferGeometry,
    material: Material,
    members: StagedPart[],
    before: ReadonlyMap<string, InstancedMesh>,
  ): InstancedMesh {
    const key = `${geometry.id} ${material.id}`;
    let mesh = before.get(key);
    if (!mesh || mesh.instanceMatrix.count < members.length) {
      mesh = new InstancedMesh(geometry, material, members.length);
      mesh.matrixAutoUpdate = false;
      mesh.raycast = () => undefined;
    }
    for (const [place, { group }] of members.entries()) {
      mesh.setMatrixAt(place, group.matrix);
      // Rays are sent to the parts themselves, which the scene no longer keeps up to date.
      group.updateMatrixWorld(true);
    }
    mesh.count = members.length;
    mesh.instanceMatrix.needsUpdate = true;
    mesh.computeBoundingSphere();
    this.drawn.set(key, mesh);
    return mesh;
  }
}
