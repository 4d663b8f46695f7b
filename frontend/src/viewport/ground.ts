import { BufferGeometry, Float32BufferAttribute, Mesh, type MeshPhysicalMaterial } from "three";
import type { Schemas } from "../api/client";
import { toMaterial } from "./materials";

export type GroundShown = NonNullable<Schemas["GroundAnswer"]["ground"]>;

/** The floor where it wears an appearance or is a sweep; a plain one is the backdrop's colour and needs no surface. */
export class Ground {
  readonly mesh = new Mesh<BufferGeometry, MeshPhysicalMaterial>();

  constructor() {
    this.mesh.visible = false;
    this.mesh.raycast = () => undefined;
  }

  show(shown: GroundShown | undefined, arrived: () => void) {
    this.mesh.visible = shown !== undefined;
    if (!shown) return;
    const { positions, normals, coordinates, triangles } = shown.mesh;
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new Float32BufferAttribute(positions.flat(), 3));
    geometry.setAttribute("normal", new Float32BufferAttribute(normals.flat(), 3));
    geometry.setAttribute("uv", new Float32BufferAttribute(coordinates.flat(), 2));
    geometry.setIndex(triangles.flat());
    this.dispose();
    this.mesh.geometry = geometry;
    this.mesh.material = toMaterial(shown.appearance, shown.shaded, arrived);
    // What lies on it, as the contact shadow, is not to be cut by it.
    Object.assign(this.mesh.material, { polygonOffset: true, polygonOffsetFactor: 2, polygonOffsetUnits: 2 });
    geometry.computeBoundingBox();
    const size = geometry.boundingBox!.max.x - geometry.boundingBox!.min.x;
    this.mesh.position.z = -size * 5e-5;
  }

  dispose() {
    this.mesh.geometry.dispose();
    this.mesh.material.dispose?.();
  }
}
