import type { Plugin } from "vite";

const NOTHING = "export default ''; export const vertex = ''; export const fragment = '';";

/** Shaders of materials, and pieces of them, that are left out: each is asked for by name only. */
const SHADERS = [
  "ShaderLib/(meshlambert|meshmatcap|meshphong|meshtoon|sprite|linedashed|depth|distance|shadow|meshnormal)",
  "ShaderChunk/(lights_(lambert|toon|phong)|shadowmap|shadowmask|morph|skin|fog|lightprobes|gradientmap|displacement)\\w*",
  "ShaderChunk/(batching|lightmap|transmission|alphahash|logdepthbuf)\\w*",
];

/** What the renderer makes one of whether it is used or not, as far as it asks for it. */
const MODULES: Record<string, string> = {
  "renderers/webxr/WebXRManager.js": `
    import { EventDispatcher } from "../../core/EventDispatcher.js";
    export class WebXRManager extends EventDispatcher {
      enabled = false;
      isPresenting = false;
      setAnimationLoop() {}
      getEnvironmentBlendMode() {}
      dispose() {}
    }`,
  "renderers/webgl/WebGLShadowMap.js": `
    export class WebGLShadowMap {
      enabled = false;
      render() {}
    }`,
  "renderers/webgl/WebGLMorphtargets.js": "export class WebGLMorphtargets {}",
  "renderers/webgl/WebGLUniformsGroups.js": "export class WebGLUniformsGroups { dispose() {} }",
};

/**
 * Leaves out of three what nothing here uses: headsets, shadow maps, bent and animated meshes, fog, and the shaders of
 * materials that no part wears. A tenth of the library. Whoever needs one of them takes its line away here.
 */
export const leanThree: Plugin = {
  name: "lean-three",
  enforce: "pre",
  load: {
    filter: { id: /three\/src\/renderers\// },
    handler(id) {
      const path = id.split("three/src/")[1]!;
      const known = Object.keys(MODULES).find((module) => module === path);
      if (known) return MODULES[known];
      return SHADERS.some((name) => new RegExp(`shaders/${name}\\.glsl\\.js$`).test(path)) ? NOTHING : null;
    },
  },
};
