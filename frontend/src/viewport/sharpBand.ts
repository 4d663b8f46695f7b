import {
  type Camera,
  MeshBasicMaterial,
  type Object3D,
  type Scene,
  Vector3,
  type WebGLRenderer,
} from "three";
import { axes, type View } from "../state/camera";

/** mm along the axis of a shot; no far end reaches to infinity. */
export interface Sharp {
  near: number;
  far: number | null;
}

/** Tints what a shot shows sharp, from wherever one looks at it. */
export class SharpBand {
  private on = false;
  private readonly uniforms = {
    sharpEye: { value: new Vector3() },
    sharpAxis: { value: new Vector3() },
    sharpNear: { value: 0 },
    sharpFar: { value: 0 },
  };
  private readonly material = new MeshBasicMaterial({
    color: "#11a39a",
    transparent: true,
    opacity: 0.45,
    depthWrite: false,
    toneMapped: false,
    polygonOffset: true,
    polygonOffsetFactor: -1,
    polygonOffsetUnits: -4,
  });

  constructor() {
    this.material.onBeforeCompile = (shader) => {
      Object.assign(shader.uniforms, this.uniforms);
      shader.vertexShader = shader.vertexShader
        .replace(
          "void main() {",
          `uniform vec3 sharpEye, sharpAxis;\nvarying float sharpDepth;\nvoid main() {`,
        )
        .replace("#include <project_vertex>", `#include <project_vertex>\n${DEPTH}`);
      shader.fragmentShader = shader.fragmentShader.replace(
        "void main() {",
        `uniform float sharpNear, sharpFar;\nvarying float sharpDepth;\nvoid main() {
          if (sharpDepth < sharpNear || sharpDepth > sharpFar) discard;`,
      );
    };
  }

  get any(): boolean {
    return this.on;
  }

  /** Shows what is sharp from a view, or nothing. */
  set(sharp: Sharp | undefined, view: View | undefined) {
    this.on = Boolean(sharp && view);
    if (!sharp || !view) return;
    this.uniforms.sharpEye.value.copy(view.position);
    this.uniforms.sharpAxis.value.copy(axes(view).forward);
    this.uniforms.sharpNear.value = sharp.near;
    this.uniforms.sharpFar.value = sharp.far ?? 1e12;
  }

  /** Draws over what was drawn, by its depth; all but the product is left out. */
  render(renderer: WebGLRenderer, scene: Scene, camera: Camera, product: Object3D) {
    if (!this.on) return;
    const others = scene.children.filter((object) => object !== product && object.visible);
    for (const object of others) object.visible = false;
    const { background } = scene;
    scene.background = null;
    scene.overrideMaterial = this.material;
    renderer.autoClear = false;
    renderer.render(scene, camera);
    renderer.autoClear = true;
    scene.overrideMaterial = null;
    scene.background = background;
    for (const object of others) object.visible = true;
  }

  dispose() {
    this.material.dispose();
  }
}

const DEPTH = `
  vec4 sharpAt = vec4(transformed, 1.0);
  #ifdef USE_INSTANCING
    sharpAt = instanceMatrix * sharpAt;
  #endif
  sharpDepth = dot((modelMatrix * sharpAt).xyz - sharpEye, sharpAxis);
`;
