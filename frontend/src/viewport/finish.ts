import { ShaderChunk } from "three";
import type { Shot } from "../api/client";
import { FILMIC, GREY, LUMINANCE } from "../api/generated/facts";

/** How the shaded picture is finished; the numbers of the white balance come from the server. */
export interface Finish {
  exposure: number;
  tone: NonNullable<Shot["tone"]>;
  /** 3 x 3, row by row. */
  white: number[];
  /** About middle grey, and about the luminance; 1: as it is. */
  contrast: number;
  saturation: number;
}

const HOOK = "vec3 CustomToneMapping( vec3 color ) { return color; }";
const ORIGINAL = ShaderChunk.tonemapping_pars_fragment;

/** The same curves as the traced picture's (see core/picture/tone.py). */
const CURVES: Record<Finish["tone"], string> = {
  neutral: "return NeutralToneMapping( balanced );",
  linear: "return saturate( toneMappingExposure * balanced );",
  filmic: `
    vec3 x = ${glsl(FILMIC.bias)} * toneMappingExposure * balanced;
    vec3 y = ${hable("x")};
    float w = ${glsl(FILMIC.white)};
    return saturate( y / ( ${hable("w")} ) );`,
};

/** As `graded` in core/picture/finishing.py, on picture values; what is as it is costs nothing. */
function graded(contrast: number, saturation: number): string {
  const grey = `${glsl(GREY)} / toneMappingExposure`;
  const steeper = `balanced = ${grey} * pow( balanced / ( ${grey} ), vec3( ${glsl(contrast)} ) );`;
  const weights = LUMINANCE.map(glsl).join(", ");
  const paler = `float grey = dot( balanced, vec3( ${weights} ) );
      balanced = max( grey + ( balanced - grey ) * ${glsl(saturation)}, vec3( 0.0 ) );`;
  return `${contrast === 1 ? "" : steeper} ${saturation === 1 ? "" : paler}`;
}

function hable(x: string): string {
  const [a, b, c, d, e, f] = FILMIC.curve;
  const over = `${x} * ( ${glsl(a)} * ${x} + ${glsl(c * b)} ) + ${glsl(d * e)}`;
  const under = `${x} * ( ${glsl(a)} * ${x} + ${glsl(b)} ) + ${glsl(d * f)}`;
  return `( ${over} ) / ( ${under} ) - ${glsl(e / f)}`;
}

function glsl(value: number): string {
  return value.toFixed(9);
}

let key = "";

/** Tells materials apart that were compiled with another curve. */
export const finishKey = () => key;

/** Writes curve and white balance into the shaders; whether materials have to be compiled anew. */
export function setFinish({ tone, white, contrast, saturation }: Finish): boolean {
  const next = JSON.stringify([tone, contrast, saturation, white.map((v) => v.toFixed(5))]);
  if (next === key) return false;
  key = next;
  const [a, b, c, d, e, f, g, h, i] = white.map((v) => v.toFixed(6));
  // Shader matrices are given column by column.
  ShaderChunk.tonemapping_pars_fragment = ORIGINAL.replace(
    HOOK,
    `vec3 CustomToneMapping( vec3 color ) {
      vec3 balanced = max( mat3( ${a}, ${d}, ${g}, ${b}, ${e}, ${h}, ${c}, ${f}, ${i} ) * color, vec3( 0.0 ) );
      ${graded(contrast, saturation)}
      ${CURVES[tone]}
    }`,
  );
  return true;
}
