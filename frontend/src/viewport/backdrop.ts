import { Color, Mesh, PlaneGeometry, ShaderMaterial } from "three";

/** What lies behind the product: a gradient in the picture's own colours, which no exposure or tone curve changes. */
export class Backdrop {
  readonly mesh: Mesh;
  readonly material: ShaderMaterial;

  constructor() {
    this.material = new ShaderMaterial({
      uniforms: { bottom: { value: new Color() }, top: { value: new Color() } },
      vertexShader:
        "varying float t; void main() { t = 1.0 - uv.y; gl_Position = vec4(position.xy, 1.0, 1.0); }",
      fragmentShader: `
        uniform vec3 bottom; uniform vec3 top; varying float t;
        void main() {
          gl_FragColor = vec4(mix(top, bottom, t * t * (3.0 - 2.0 * t)), 1.0);
          #include <colorspace_fragment>
        }`,
      depthTest: false,
      depthWrite: false,
      toneMapped: false,
    });
    this.mesh = new Mesh(new PlaneGeometry(2, 2), this.material);
    this.mesh.frustumCulled = false;
    this.mesh.renderOrder = -10;
  }

  set(bottom: string, top: string) {
    this.material.uniforms.bottom!.value.set(bottom);
    this.material.uniforms.top!.value.set(top);
  }
}
