import {
  type Box3,
  Mesh,
  MeshBasicMaterial,
  type Object3D,
  OrthographicCamera,
  PlaneGeometry,
  Quaternion,
  type Scene,
  ShaderMaterial,
  Vector3,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";
import type { FloorPlane } from "../state/lighting";

const SIZE = 256;
const Z = new Vector3(0, 0, 1);

const DEPTH = new ShaderMaterial({
  vertexShader:
    "varying float h; void main() { vec4 p = vec4(position, 1.0);\n#ifdef USE_INSTANCING\n p = instanceMatrix * p;\n#endif\n p = modelViewMatrix * p; h = -p.z; gl_Position = projectionMatrix * p; }",
  fragmentShader:
    "uniform float reach; varying float h; void main() { gl_FragColor = vec4(vec3(0.0), exp(-3.0 * h / reach)); }",
  uniforms: { reach: { value: 1 } },
  side: 2,
});

const BLUR = new ShaderMaterial({
  vertexShader: "varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }",
  fragmentShader: `
    uniform sampler2D map; uniform vec2 step; varying vec2 at;
    void main() {
      float sum = 0.0, weights = 0.0;
      for (int k = -12; k <= 12; k++) {
        float w = exp(-float(k * k) / 60.0);
        sum += w * texture2D(map, at + step * float(k)).a; weights += w;
      }
      gl_FragColor = vec4(vec3(0.0), sum / weights);
    }`,
  uniforms: { map: { value: null }, step: { value: null } },
  depthTest: false,
  depthWrite: false,
});

/** A soft shadow on the floor: how near the product is above it, seen from below and blurred. */
export class ContactShadow {
  readonly mesh: Mesh;
  private readonly targets = [new WebGLRenderTarget(SIZE, SIZE), new WebGLRenderTarget(SIZE, SIZE)] as const;
  private readonly camera = new OrthographicCamera();
  private readonly quad = new Mesh(new PlaneGeometry(2, 2), BLUR);

  constructor() {
    const material = new MeshBasicMaterial({
      map: this.targets[0].texture,
      transparent: true,
      opacity: 0.75,
      depthWrite: false,
    });
    material.toneMapped = false;
    this.mesh = new Mesh(new PlaneGeometry(1, 1), material);
    this.mesh.renderOrder = -5;
    // It is drawn over the whole target, wherever the camera looks.
    this.quad.frustumCulled = false;
  }

  /** 0: none; 1: as it is. */
  set strength(share: number) {
    (this.mesh.material as MeshBasicMaterial).opacity = 0.75 * share;
  }

  /** Draw it anew for what `scene` shows inside `bounds`, without what is `aside`; mm. */
  update(renderer: WebGLRenderer, scene: Scene, bounds: Box3, floor: FloorPlane, aside: Object3D[]) {
    const center = bounds.getCenter(new Vector3());
    const size = bounds.getSize(new Vector3());
    const up = new Vector3(...floor.up);
    const turn = new Quaternion().setFromUnitVectors(Z, up);
    // Whichever way a tilted floor cuts through the box, it is within its diagonal.
    const isLevel = up.z === 1;
    const half = (isLevel ? Math.max(size.x, size.y) : size.length()) * 0.95 + 1;
    const high = isLevel ? size.z : size.length();
    Object.assign(this.camera, {
      left: -half,
      right: half,
      top: half,
      bottom: -half,
      near: 0,
      far: high + 2,
    });
    const foot = center.clone().addScaledVector(up, floor.height - center.dot(up));
    this.camera.position.copy(foot).sub(up);
    this.camera.up.set(0, 1, 0).applyQuaternion(turn);
    this.camera.lookAt(foot.clone().add(up));
    this.camera.updateProjectionMatrix();
    this.mesh.position.copy(foot).addScaledVector(up, -size.length() * 2e-4);
    this.mesh.quaternion.copy(turn);
    // It was drawn from below, where left and right are exchanged. From there it is not seen.
    this.mesh.scale.set(-2 * half, 2 * half, 1);

    const hidden = [this.mesh, ...aside].filter((object) => object.visible);
    for (const object of hidden) object.visible = false;
    DEPTH.uniforms.reach!.value = high * 0.6;
    scene.overrideMaterial = DEPTH;
    renderer.setRenderTarget(this.targets[0]);
    renderer.setClearColor(0x000000, 0);
    renderer.clear();
    renderer.render(scene, this.camera);
    scene.overrideMaterial = null;
    for (const [from, to, step] of [
      [0, 1, [1.2 / SIZE, 0]],
      [1, 0, [0, 1.2 / SIZE]],
    ] as const) {
      BLUR.uniforms.map!.value = this.targets[from].texture;
      BLUR.uniforms.step!.value = { x: step[0], y: step[1] };
      renderer.setRenderTarget(this.targets[to]);
      renderer.clear();
      renderer.render(this.quad, this.camera);
    }
    renderer.setRenderTarget(null);
    for (const object of hidden) object.visible = true;
  }

  dispose() {
    for (const target of this.targets) target.dispose();
  }
}
