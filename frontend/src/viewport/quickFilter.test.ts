import { PMREMGenerator, type ShaderMaterial, type WebGLRenderer } from "three";
import { expect, test } from "vitest";
import { QuickFilter } from "./quickFilter";

/** The filter's materials as this version of three makes it, without drawing anything. */
function materials(of: typeof PMREMGenerator): {
  _ggxMaterial: ShaderMaterial;
  _integrationMaterial: ShaderMaterial;
} {
  const made = new of({} as WebGLRenderer) as unknown as {
    _sourceTarget: unknown;
    _ggxMaterial: ShaderMaterial;
    _integrationMaterial: ShaderMaterial;
    _applyPMREM(target: unknown): void;
  };
  made._sourceTarget = { texture: null };
  made._applyPMREM({ texture: { mipmaps: [] } });
  return made;
}

test("an eighth of the directions, each blurred by so much more", () => {
  const usual = materials(PMREMGenerator)._ggxMaterial.fragmentShader;
  const quick = materials(QuickFilter as unknown as typeof PMREMGenerator)._ggxMaterial.fragmentShader;
  expect(usual).toContain("#define GGX_SAMPLES 256u");
  expect(quick).toContain("#define GGX_SAMPLES 32u");
  expect(quick).toContain("log2( d ) + lodBias + 1.50");
  expect(quick.length).toBeGreaterThan(usual.length);
});

test("the roughest reflections add up a picture of half the side, one level further down", () => {
  const usual = materials(PMREMGenerator)._integrationMaterial;
  const quick = materials(QuickFilter as unknown as typeof PMREMGenerator)._integrationMaterial;
  expect(quick.uniforms.sourceSize!.value * 2).toBe(usual.uniforms.sourceSize!.value);
  expect(usual.fragmentShader).toContain("textureLod( envMap, texelDirection, sourceLod )");
  expect(quick.fragmentShader).toContain("textureLod( envMap, texelDirection, sourceLod + 1.0 )");
});
