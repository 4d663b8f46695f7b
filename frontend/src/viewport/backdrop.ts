import { Color, Mesh, PlaneGeometry, ShaderMaterial } from "three";
import { finishKey } from "./finish";

/** What lies behind the product: the tracer's gradient, drawn under everything with the same tone curve. */
export class Backdrop {
  readonly mesh: Mesh;
  readonly material: ShaderMaterial;

  constructor() {
    this.material = new ShaderMaterial({
      uniforms: { bottom: { value: new Color() }, top: { value: new Color() }, level: { value: 1 } },
      vertexShader:
        "varying float t; void main() { t = 1.0 - uv.y; gl_Position = vec4(position.xy, 1.0, 1.0); }",
      fragmentShader: `
        uniform vec3 bottom; uniform vec3 top; uniform float level; varying float t;
        void main() {
          gl_FragColor = vec4(mix(top, bottom, t * t * (3.0 - 2.0 * t)) * level, 1.0);
          #include <tonemapping_fragment>
          #include <colorspace_fragment>
        }`,
      depthTest: false,
      depthWrite: false,
    });
    this.material.customProgramCacheKey = finishKey;
    this.mesh = new Mesh(new PlaneGeometry(2, 2), this.material);
    this.mesh.frustumCulled = false;
    this.mesh.renderOrder = -10;
  }

  set(bottom: string, top: string, level: number) {
    this.material.uniforms.bottom!.value.set(bottom);
    this.material.uniforms.top!.value.set(top);
    this.material.uniforms.level!.value = level;
  }
}
