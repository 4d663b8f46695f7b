import { PMREMGenerator, type ShaderMaterial, type WebGLCubeRenderTarget, type WebGLRenderer } from "three";

/** Directions for each texel, of a rough reflection. */
const USUAL = 256;
const FEW = 32;

/** Texels along a side of the filtered cube: a map as wide as `loadMap` gives has no more to a quarter turn. */
const SIDE = 128;

/** Texels along a side of the picture that the roughest reflections add up; usually it is 16. */
const ADDED_UP = 8;

/** What `PMREMGenerator` is made of, as far as it is used here. */
interface Inside {
  _cubeSize: number;
  _ggxMaterial: ShaderMaterial | null;
  _integrationMaterial: ShaderMaterial | null;
  _applyPMREM(target: WebGLCubeRenderTarget): void;
  _setSize(size: number): void;
}
const Usual = PMREMGenerator as unknown as new (renderer: WebGLRenderer) => PMREMGenerator & Inside;

/** Filters surroundings with an eighth of the directions, each blurred by so much more, and no finer than they are:
 * drawing in software, the usual way takes eight seconds of a processor for every change of the light. */
export class QuickFilter extends Usual {
  override _setSize() {
    this._cubeSize = SIDE;
  }

  override _applyPMREM(target: WebGLCubeRenderTarget) {
    if (this._ggxMaterial === null) {
      // Nothing to fill: the materials are made, and no more.
      super._applyPMREM({ texture: { mipmaps: [] } } as unknown as WebGLCubeRenderTarget);
      if (this._ggxMaterial) thinOut(this._ggxMaterial);
      if (this._integrationMaterial) addUpLess(this._integrationMaterial);
    }
    super._applyPMREM(target);
  }
}

/** A sample stands for eight times the solid angle: one and a half levels of the source's mipmaps. */
function thinOut(material: ShaderMaterial) {
  exchange(material, `#define GGX_SAMPLES ${USUAL}u`, `#define GGX_SAMPLES ${FEW}u`);
  exchange(
    material,
    "log2( d ) + lodBias",
    `log2( d ) + lodBias + ${(0.5 * Math.log2(USUAL / FEW)).toFixed(2)}`,
  );
}

/** One level of the source's mipmaps further down. */
function addUpLess(material: ShaderMaterial) {
  exchange(material, "texelDirection, sourceLod )", "texelDirection, sourceLod + 1.0 )");
  material.uniforms.sourceSize!.value = ADDED_UP;
}

function exchange(material: ShaderMaterial, was: string, by: string) {
  const made = material.fragmentShader.replace(was, by);
  if (made === material.fragmentShader)
    throw new Error("the filter of this version of three is made otherwise");
  material.fragmentShader = made;
}
