import { Color, DoubleSide, FrontSide, MeshPhysicalMaterial } from "three";
import type { Appearance, OpenPBR } from "../api/client";
import { REFERENCE_EV } from "../api/generated/facts";
import { exposureScale } from "./exposure";
import { hang } from "./textures";

/** The nearest that the shaded picture can show of an appearance; `arrived` is called when its pictures have come. */
export function toMaterial(appearance: Appearance, arrived: () => void): MeshPhysicalMaterial {
  const material = new MeshPhysicalMaterial();
  applyParams(material, appearance.params as Required<OpenPBR>);
  hang(material, appearance.textures ?? [], arrived).catch(() => undefined);
  return material;
}

/** What a coat lets through of the colour beneath: light that it throws back onto the body is lost there once more. */
function throughCoat(p: Required<OpenPBR>, body: Color): Color {
  const n = Math.max(p.coat_ior, 1.0001);
  const thrownBack = 1 - (1 - ((n - 1) / (n + 1)) ** 2) / n ** 2;
  const through = (albedo: number, tint: number) => {
    const dimmed = (1 - thrownBack) / (1 - Math.min(albedo, 1) * thrownBack);
    const seen = tint * (1 + p.coat_darkening * (dimmed - 1));
    return 1 + p.coat_weight * (seen - 1);
  };
  const [r, g, b] = p.coat_color as [number, number, number];
  return new Color(through(body.r, r), through(body.g, g), through(body.b, b));
}

function applyParams(material: MeshPhysicalMaterial, p: Required<OpenPBR>) {
  const glass = p.transmission_weight * (1 - p.base_metalness);
  const color = new Color(...p.base_color).multiplyScalar(p.base_weight);
  if (p.subsurface_weight > 0) color.lerp(new Color(...p.subsurface_color), p.subsurface_weight);
  material.color.copy(glass > 0 ? color.lerp(new Color(...p.transmission_color), glass) : color);
  material.userData.coat = throughCoat(p, color);
  material.color.multiply(material.userData.coat);
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
  // Where it lies on something opaque, that is what shows, as in the traced picture, and not now one and now the other.
  material.polygonOffset = clear;
  material.polygonOffsetFactor = material.polygonOffsetUnits = 1;
  material.side = clear ? FrontSide : DoubleSide;
  material.needsUpdate = true;
}
