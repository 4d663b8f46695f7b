import {
  DoubleSide,
  MeshBasicMaterial,
  type Object3D,
  type OrthographicCamera,
  type PerspectiveCamera,
  type Scene,
  type WebGLRenderer,
} from "three";

/** Stands in for all materials where only what hides what matters. */
const depthOnly = new MeshBasicMaterial({ colorWrite: false, side: DoubleSide });

interface Layers {
  /** What hides marks. */
  product: Object3D;
  marks: Object3D;
  /** What hides nothing. */
  aside: Object3D[];
}

/** Draws marks over a picture that lies beneath the canvas: the depth of what is opaque, then the marks. */
export function renderMarksAlone(
  renderer: WebGLRenderer,
  scene: Scene,
  camera: PerspectiveCamera | OrthographicCamera,
  { product, marks, aside }: Layers,
) {
  const visible = aside.map((object) => object.visible);
  for (const object of aside) object.visible = false;
  marks.visible = false;
  scene.overrideMaterial = depthOnly;
  renderer.autoClear = false;
  renderer.render(scene, camera);
  scene.overrideMaterial = null;
  marks.visible = true;
  product.visible = false;
  renderer.render(scene, camera);
  renderer.autoClear = true;
  product.visible = true;
  aside.forEach((object, index) => {
    object.visible = visible[index]!;
  });
}
