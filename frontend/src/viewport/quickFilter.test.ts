import { PMREMGenerator, type ShaderMaterial, type WebGLRenderer } from "three";
import { expect, test } from "vitest";
import { QuickFilter } from "./quickFilter";

/** The filter's shader as this version of three makes it, without drawing anything. */
function shader(of: typeof PMREMGenerator): string {
  const made = new of({} as WebGLRenderer) as unknown as {
    _sourceTarget: unknown;
    _ggxMaterial: ShaderMaterial;
    _applyPMREM(target: unknown): void;
  };
  made._sourceTarget = { texture: null };
  made._applyPMREM({ texture: { mipmaps: [] } });
  return made._ggxMaterial.fragmentShader;
}

test("an eighth of the directions, each blurred by so much more", () => {
  const usual = shader(PMREMGenerator);
  const quick = shader(QuickFilter as unknown as typeof PMREMGenerator);
  expect(usual).toContain("#define GGX_SAMPLES 256u");
  expect(quick).toContain("#define GGX_SAMPLES 32u");
  expect(quick).toContain("log2( d ) + lodBias + 1.50");
  expect(quick.length).toBeGreaterThan(usual.length);
});
