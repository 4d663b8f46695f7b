import { PMREMGenerator, type ShaderMaterial, type WebGLCubeRenderTarget, type WebGLRenderer } from "three";

/** Directions for each texel, of a rough reflection. */
const USUAL = 256;
const FEW = 32;

/** What `PMREMGenerator` is made of, as far as it is used here. */
interface Inside {
  _ggxMaterial: ShaderMaterial | null;
  _applyPMREM(target: WebGLCubeRenderTarget): void;
}
const Usual = PMREMGenerator as unknown as new (renderer: WebGLRenderer) => PMREMGenerator & Inside;

/** Filters surroundings with an eighth of the directions, each blurred by so much more: drawing in software, the usual
 * number takes eight seconds of a processor for every change of the light. */
export class QuickFilter extends Usual {
  override _applyPMREM(target: WebGLCubeRenderTarget) {
    if (this._ggxMaterial === null) {
      // Nothing to fill: the materials are made, and no more.
      super._applyPMREM({ texture: { mipmaps: [] } } as unknown as WebGLCubeRenderTarget);
      if (this._ggxMaterial) thinOut(this._ggxMaterial);
    }
    super._applyPMREM(target);
  }
}

/** A sample stands for eight times the solid angle: one and a half levels of the source's mipmaps. */
export function thinOut(material: { fragmentShader: string }) {
  const thinner = material.fragmentShader
    .replace(`#define GGX_SAMPLES ${USUAL}u`, `#define GGX_SAMPLES ${FEW}u`)
    .replace("log2( d ) + lodBias", `log2( d ) + lodBias + ${(0.5 * Math.log2(USUAL / FEW)).toFixed(2)}`);
  if (!thinner.includes(`GGX_SAMPLES ${FEW}u`) || !thinner.includes("lodBias + 1.50"))
    throw new Error("the filter of this version of three is made otherwise");
  material.fragmentShader = thinner;
}
