import { BackSide, Color, ShaderMaterial, Vector2 } from "three";

/** Draws a shape's back faces pushed out along their normals by a few pixels: what shows past it is its outline. */
export function outlineMaterial(color = "#0b6b73", width = 2.5): ShaderMaterial {
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
