import { Color, DoubleSide, FrontSide, MeshPhysicalMaterial } from "three";
import type { Appearance, OpenPBR } from "../api/client";
import { exposureScale, REFERENCE_EV } from "./exposure";
import { hang } from "./textures";

/** The nearest that the shaded picture can show of an appearance; `arrived` is called when its pictures have come. */
export function toMaterial(appearance: Appearance, arrived: () => void): MeshPhysicalMaterial {
  const material = new MeshPhysicalMaterial();
  applyParams(material, appearance.params as Required<OpenPBR>);
  hang(material, appearance.textures ?? [], arrived).catch(() => undefined);
  return material;
}

function applyParams(material: MeshPhysicalMaterial, p: Required<OpenPBR>) {
  const glass = p.transmission_weight * (1 - p.base_metalness);
  const color = new Color(...p.base_color).multiplyScalar(p.base_weight);
  if (p.subsurface_weight > 0) color.lerp(new Color(...p.subsurface_color), p.subsurface_weight);
  material.color.copy(glass > 0 ? color.lerp(new Color(...p.transmission_color), glass) : color);
  material.metalness = p.base_metalness;
  material.roughness = Math.max(p.specular_roughness, 0.04);
  material.ior = Math.min(Math.max(p.specular_ior, 1), 2.333);
  material.specularIntensity = p.specular_weight;
  material.specularColor.setRGB(...p.specular_color);
  material.clearcoat = p.coat_weight;
  material.clearcoatRoughness = p.coat_roughness;
  material.sheen = p.fuzz_weight;
  material.sheenColor.setRGB(...p.fuzz_color);
  material.sheenRoughness = p.fuzz_roughness;
  material.iridescence = p.thin_film_weight;
  material.iridescenceIOR = Math.min(Math.max(p.thin_film_ior, 1), 2.333);
  material.iridescenceThicknessRange = [0, p.thin_film_thickness * 1000];
  const light = p.emission_luminance * exposureScale(REFERENCE_EV);
  material.emissive.setRGB(...p.emission_color).multiplyScalar(light);
  // Real refraction needs a second pass over the whole scene; a see-through wall is close enough here.
  const clear = glass > 0.5 && p.specular_roughness < 0.3;
  material.transparent = clear || p.geometry_opacity < 1;
  material.opacity = clear ? 0.2 : p.geometry_opacity;
  material.depthWrite = !clear;
  material.side = clear ? FrontSide : DoubleSide;
  material.needsUpdate = true;
}
