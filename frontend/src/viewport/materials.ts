import { DoubleSide, FrontSide, MeshPhysicalMaterial } from "three";
import type { Appearance, Shaded } from "../api/client";
import { REFERENCE_EV } from "../api/generated/facts";
import { exposureScale } from "./exposure";
import { hang } from "./textures";

/** What the core says is shown of an appearance, as a material; `arrived` is called when its pictures have come. */
export function toMaterial(appearance: Appearance, shown: Shaded, arrived: () => void): MeshPhysicalMaterial {
  const material = new MeshPhysicalMaterial({
    metalness: shown.metalness,
    roughness: shown.roughness,
    ior: shown.ior,
    specularIntensity: shown.specular_weight,
    clearcoat: shown.coat,
    clearcoatRoughness: shown.coat_roughness,
    sheen: shown.fuzz,
    sheenRoughness: shown.fuzz_roughness,
    iridescence: shown.film,
    iridescenceIOR: shown.film_ior,
    iridescenceThicknessMaximum: shown.film_thickness,
    transparent: shown.clear || shown.opacity < 1,
    opacity: shown.opacity,
    depthWrite: !shown.clear,
    // Where it lies on something opaque, that is what shows, as in the traced picture, and not now one and now the other.
    polygonOffset: shown.clear,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
    side: shown.clear ? FrontSide : DoubleSide,
  });
  material.color.setRGB(...shown.color);
  material.specularColor.setRGB(...shown.specular_color);
  material.sheenColor.setRGB(...shown.fuzz_color);
  material.emissive.setRGB(...shown.glow).multiplyScalar(exposureScale(REFERENCE_EV));
  hang(material, shown, appearance.textures ?? [], arrived).catch(() => undefined);
  return material;
}
