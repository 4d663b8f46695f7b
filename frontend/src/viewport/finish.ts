import { ShaderChunk } from "three";
import type { Shot } from "../api/client";

/** How the shaded picture is finished; the numbers of the white balance come from the server. */
export interface Finish {
  exposure: number;
  tone: NonNullable<Shot["tone"]>;
  /** 3 x 3, row by row. */
  white: number[];
}

const HOOK = "vec3 CustomToneMapping( vec3 color ) { return color; }";
const ORIGINAL = ShaderChunk.tonemapping_pars_fragment;

/** The same curves as the traced picture's (see core/picture/tone.py). */
const CURVES: Record<Finish["tone"], string> = {
  neutral: "return NeutralToneMapping( balanced );",
  linear: "return saturate( toneMappingExposure * balanced );",
  filmic: `
    vec3 x = 2.0 * toneMappingExposure * balanced;
    vec3 y = ( x * ( 0.15 * x + 0.05 ) + 0.004 ) / ( x * ( 0.15 * x + 0.5 ) + 0.06 ) - 0.02 / 0.3;
    float w = 11.2;
    return saturate( y / ( ( w * ( 0.15 * w + 0.05 ) + 0.004 ) / ( w * ( 0.15 * w + 0.5 ) + 0.06 ) - 0.02 / 0.3 ) );`,
};

let key = "";

/** Tells materials apart that were compiled with another curve. */
export const finishKey = () => key;

/** Writes curve and white balance into the shaders; whether materials have to be compiled anew. */
export function setFinish({ tone, white }: Finish): boolean {
  const next = JSON.stringify([tone, white.map((v) => v.toFixed(5))]);
  if (next === key) return false;
  key = next;
  const [a, b, c, d, e, f, g, h, i] = white.map((v) => v.toFixed(6));
  // Shader matrices are given column by column.
  ShaderChunk.tonemapping_pars_fragment = ORIGINAL.replace(
    HOOK,
    `vec3 CustomToneMapping( vec3 color ) {
      vec3 balanced = max( mat3( ${a}, ${d}, ${g}, ${b}, ${e}, ${h}, ${c}, ${f}, ${i} ) * color, vec3( 0.0 ) );
      ${CURVES[tone]}
    }`,
  );
  return true;
}
