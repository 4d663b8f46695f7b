import {
  AlwaysStencilFunc,
  BackSide,
  Color,
  DoubleSide,
  type Material,
  MeshBasicMaterial,
  NotEqualStencilFunc,
  ReplaceStencilOp,
  ShaderMaterial,
  Vector2,
} from "three";

/** Draws a shape's back faces pushed out along their normals by a few pixels: what shows past it is its outline. */
function outlineMaterial(color = "#0b6b73", width = 2.5): ShaderMaterial {
  return new ShaderMaterial({
    uniforms: {
      pixel: { value: new Vector2() },
      width: { value: width },
      color: { value: new Color(color) },
    },
    vertexShader: `
      uniform vec2 pixel; uniform float width;
      void main() {
        gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
        vec4 ahead = projectionMatrix * modelViewMatrix * vec4(position + normal, 1.0);
        vec2 way = (ahead.xy / ahead.w - gl_Position.xy / gl_Position.w) / pixel;
        float len = length(way);
        if (len > 1e-5) gl_Position.xy += way / len * width * pixel * gl_Position.w;
      }`,
    fragmentShader: `
      uniform vec3 color;
      void main() {
        gl_FragColor = vec4(color, 1.0);
        #include <colorspace_fragment>
      }`,
    side: BackSide,
  });
}

/**
 * Outlines of one colour. An opaque part covers the inside of its own outline; a clear one cannot,
 * so its shape is first marked in the stencil.
 */
export class Outline {
  private readonly over: ShaderMaterial;
  private readonly around: ShaderMaterial;
  private readonly mark: Material;

  constructor(color?: string, width?: number) {
    this.over = outlineMaterial(color, width);
    this.around = outlineMaterial(color, width);
    Object.assign(this.around, { stencilWrite: true, stencilRef: 1, stencilFunc: NotEqualStencilFunc });
    this.mark = new MeshBasicMaterial({ colorWrite: false, depthWrite: false, side: DoubleSide });
    Object.assign(this.mark, {
      stencilWrite: true,
      stencilRef: 1,
      stencilFunc: AlwaysStencilFunc,
      stencilZPass: ReplaceStencilOp,
    });
  }

  /** The materials to draw a part with, one after the other. */
  materials(clear: boolean): Material[] {
    return clear ? [this.mark, this.around] : [this.over];
  }

  resize(width: number, height: number) {
    for (const material of [this.over, this.around])
      material.uniforms.pixel!.value.set(2 / width, 2 / height);
  }
}
