import {
  Box3,
  BufferGeometry,
  CustomToneMapping,
  DoubleSide,
  Euler,
  Group,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  type MeshPhysicalMaterial,
  OrthographicCamera,
  PerspectiveCamera,
  PMREMGenerator,
  Raycaster,
  Scene,
  type Texture,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import { acceleratedRaycast } from "three-mesh-bvh";
import type { Appearance, Lighting, Model, Standing } from "../api/client";
import { Backdrop } from "./backdrop";
import { FILM_WIDTH, type View } from "./camera";
import { ContactShadow } from "./contactShadow";
import { REFERENCE_EV } from "./exposure";
import { type Finish, finishKey, setFinish } from "./finish";
import { hasGpu } from "./gpu";
import { isClear, Marks } from "./marks";
import { toMaterial } from "./materials";
import { loadMesh, type PartMesh } from "./meshblock";
import { loadSurroundings } from "./surroundings";

Mesh.prototype.raycast = acceleratedRaycast;

/** Milliseconds without a change after which a frame drawn in software is drawn again, smooth. */
const REST = 250;

export interface StagedPart {
  uid: string;
  group: Group;
  mesh: Mesh;
  source: PartMesh;
}

/** The shaded picture: owns the WebGL scene and draws a frame only when something has changed. */
export class Stage {
  readonly scene = new Scene();
  private readonly renderer: WebGLRenderer;
  /** Drawn without a graphics card: rough while things move, smooth once they rest. */
  private readonly software: boolean;
  private settling = 0;
  private readonly perspective = new PerspectiveCamera();
  private readonly parallel = new OrthographicCamera();
  private readonly backdrop = new Backdrop();
  private readonly shadow = new ContactShadow();
  private readonly parts = new Map<string, StagedPart>();
  private readonly materials = new Map<string, MeshPhysicalMaterial>();
  private readonly marks = new Marks();
  private readonly product = new Group();
  /** Stands in for all materials where only what hides what matters. */
  private readonly depthOnly = new MeshBasicMaterial({ colorWrite: false, side: DoubleSide });
  private traced = false;
  private readonly pmrem: PMREMGenerator;
  private environment?: Texture;
  private environmentKey = "";
  private frame = 0;
  private hovered?: string;
  private shadowDirty = true;
  private view?: View;
  private floor = 0;
  private disposed = false;
  aspect = 4 / 3;

  constructor(canvas: HTMLCanvasElement) {
    this.software = !hasGpu();
    this.renderer = new WebGLRenderer({
      canvas,
      antialias: !this.software,
      preserveDrawingBuffer: true,
      stencil: true,
      alpha: true,
    });
    this.renderer.setPixelRatio(this.software ? 1 : Math.min(window.devicePixelRatio, 2));
    this.renderer.autoClear = true;
    this.renderer.toneMapping = CustomToneMapping;
    this.pmrem = new PMREMGenerator(this.renderer);
    this.scene.add(this.backdrop.mesh, this.shadow.mesh, this.product, this.marks.group);
    this.perspective.up.set(0, 0, 1);
    this.parallel.up.set(0, 0, 1);
  }

  /** Loads every part's mesh and places it. Resolves when all are there. */
  async load(model: Model): Promise<void> {
    const nodes = model.nodes.filter((node) => node.definition);
    await Promise.all(
      nodes.map(async (node) => {
        const source = await loadMesh(model.definitions[node.definition!]!.mesh);
        if (this.disposed || this.parts.has(node.uid)) return;
        const mesh = new Mesh(source.surface);
        const group = new Group();
        group.matrixAutoUpdate = false;
        group.matrix.copy(new Matrix4().set(...(node.world as Parameters<Matrix4["set"]>)));
        mesh.userData.uid = node.uid;
        mesh.visible = false;
        group.add(mesh);
        this.product.add(group);
        this.parts.set(node.uid, { uid: node.uid, group, mesh, source });
      }),
    );
  }

  /** Shows what the standing says: who is visible and what everybody wears. */
  dress(standing: Standing, previews: Record<string, Appearance>) {
    this.materials.clear();
    for (const part of this.parts.values()) {
      const worn = standing.worn[part.uid];
      const shown = worn !== undefined && standing.scene.states?.[part.uid] === undefined;
      if (part.mesh.visible !== shown) this.shadowDirty = true;
      part.mesh.visible = shown;
      if (worn) this.wear(part, worn.appearance, worn.faces ?? {}, { ...standing.appearances, ...previews });
    }
    this.floor = standing.floor;
    this.draw();
  }

  private wear(
    part: StagedPart,
    whole: string,
    faces: Record<string, string>,
    all: Record<string, Appearance>,
  ) {
    const material = this.material(whole, all);
    const differing = Object.entries(faces);
    part.source.surface.clearGroups();
    if (differing.length === 0) {
      part.mesh.geometry = part.source.surface;
      part.mesh.material = material;
      return;
    }
    // Definitions share their arrays; the groups of a part with coloured faces are its own.
    const geometry = new BufferGeometry();
    for (const [name, attribute] of Object.entries(part.source.surface.attributes))
      geometry.setAttribute(name, attribute);
    geometry.setIndex(part.source.surface.index);
    const used = [material];
    const ranges = part.source.faceRanges;
    for (let face = 0; face < ranges.length / 2; face++) {
      const id = faces[face];
      const worn = id === undefined ? material : this.material(id, all);
      let slot = used.indexOf(worn);
      if (slot < 0) slot = used.push(worn) - 1;
      geometry.addGroup(ranges[2 * face]! * 3, ranges[2 * face + 1]! * 3, slot);
    }
    part.mesh.geometry = geometry;
    part.mesh.material = used;
  }

  private material(id: string, all: Record<string, Appearance>): MeshPhysicalMaterial {
    let material = this.materials.get(id);
    if (!material) {
      material = toMaterial(all[id]!);
      material.envMap = null;
      material.customProgramCacheKey = finishKey;
      this.materials.set(id, material);
    }
    return material;
  }

  async light(lighting: Required<Lighting>, finish: Finish) {
    const backdrop = lighting.backdrop;
    const bottom = backdrop.bottom ?? "#F1EBE2";
    const top = backdrop.kind === "plain" ? bottom : (backdrop.top ?? bottom);
    this.backdrop.set(bottom, top, lighting.brightness);
    this.shadow.mesh.visible = lighting.floor;
    if (setFinish(finish)) {
      for (const material of [...this.materials.values(), this.backdrop.material])
        material.needsUpdate = true;
    }
    this.renderer.toneMappingExposure = 2 ** (REFERENCE_EV - finish.exposure);
    this.scene.environmentIntensity = lighting.brightness;
    // The map is z-up and starts at the back; three.js samples y-up from +x.
    this.scene.environmentRotation = new Euler(Math.PI / 2, 0, (lighting.turn * Math.PI) / 180, "ZXY");
    const key = `${lighting.surroundings}-${bottom}`;
    if (key !== this.environmentKey) {
      this.environmentKey = key;
      const texture = await loadSurroundings(lighting.surroundings, bottom);
      if (this.disposed || key !== this.environmentKey) return;
      const previous = this.environment;
      this.environment = this.pmrem.fromEquirectangular(texture).texture;
      texture.dispose();
      this.scene.environment = this.environment;
      previous?.dispose();
    }
    this.draw();
  }

  choose(uids: ReadonlySet<string>) {
    this.marks.choose([...uids].flatMap((uid) => this.shown(uid) ?? []));
    this.draw();
  }

  hover(uid: string | undefined) {
    if (uid === this.hovered) return;
    this.hovered = uid;
    this.marks.hover(uid === undefined ? undefined : this.shown(uid));
    this.draw();
  }

  private shown(uid: string): StagedPart | undefined {
    const part = this.parts.get(uid);
    return part?.mesh.visible ? part : undefined;
  }

  look(view: View) {
    this.view = view;
    this.draw();
  }

  resize(width: number, height: number) {
    if (width < 1 || height < 1) return;
    this.renderer.setSize(width, height, false);
    this.aspect = width / height;
    this.draw();
  }

  private camera(): PerspectiveCamera | OrthographicCamera {
    const view = this.view!;
    const distance = view.position.distanceTo(view.target);
    const across = FILM_WIDTH / 2 / view.focal;
    const bounds = this.bounds();
    const reach = bounds.isEmpty() ? distance : bounds.getSize(new Vector3()).length() * 8;
    const camera = view.parallel ? this.parallel : this.perspective;
    if (camera instanceof PerspectiveCamera) {
      camera.fov = (2 * Math.atan(across / this.aspect) * 180) / Math.PI;
      camera.aspect = this.aspect;
      camera.near = Math.max(distance - reach, distance / 200);
    } else {
      const half = across * distance;
      Object.assign(camera, {
        left: -half,
        right: half,
        top: half / this.aspect,
        bottom: -half / this.aspect,
      });
      camera.near = -reach;
    }
    camera.far = distance + reach;
    camera.position.copy(view.position);
    camera.lookAt(view.target);
    camera.updateProjectionMatrix();
    this.shift(camera, view);
    camera.updateMatrixWorld();
    return camera;
  }

  /** Moves the frame off the axis, as a shifted lens does. */
  private shift(camera: PerspectiveCamera | OrthographicCamera, view: View) {
    const [right, up] = view.optics?.shift ?? [0, 0];
    if (!right && !up) return;
    const x = (2 * right) / FILM_WIDTH;
    const y = (2 * up * this.aspect) / FILM_WIDTH;
    const elements = camera.projectionMatrix.elements;
    const column = camera instanceof PerspectiveCamera ? 8 : 12;
    const sign = camera instanceof PerspectiveCamera ? 1 : -1;
    elements[column] = elements[column]! + sign * x;
    elements[column + 1] = elements[column + 1]! + sign * y;
    camera.projectionMatrixInverse.copy(camera.projectionMatrix).invert();
  }

  /** Corner points of what is shown (or of some parts), for fitting. */
  points(uids?: ReadonlySet<string>): Vector3[] {
    const points: Vector3[] = [];
    for (const part of this.parts.values()) {
      if (!part.mesh.visible || (uids && !uids.has(part.uid))) continue;
      const surface = part.source.surface;
      if (!surface.boundingBox) surface.computeBoundingBox();
      const { min, max } = surface.boundingBox!;
      for (let k = 0; k < 8; k++) {
        const corner = new Vector3(k & 1 ? max.x : min.x, k & 2 ? max.y : min.y, k & 4 ? max.z : min.z);
        points.push(corner.applyMatrix4(part.group.matrix));
      }
    }
    return points;
  }

  private bounds(): Box3 {
    return new Box3().setFromPoints(this.points());
  }

  /** The part and point under a position given in -1..1, if any. */
  pick(x: number, y: number): { uid: string; point: Vector3 } | undefined {
    if (!this.view) return undefined;
    const ray = new Raycaster();
    ray.firstHitOnly = true;
    ray.setFromCamera(new Vector2(x, y), this.camera());
    const meshes = [...this.parts.values()].filter((part) => part.mesh.visible).map((part) => part.mesh);
    for (const mesh of meshes) if (!mesh.geometry.boundsTree) mesh.geometry.computeBoundsTree();
    const hit = ray.intersectObjects(meshes, false)[0];
    return hit && { uid: hit.object.userData.uid as string, point: hit.point };
  }

  draw() {
    if (this.frame || this.disposed) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      if (!this.view || this.disposed) return;
      if (this.software) this.settleLater();
      const camera = this.camera();
      if (this.shadowDirty && this.shadow.mesh.visible && this.parts.size) this.updateShadow();
      const size = this.renderer.getSize(new Vector2());
      this.marks.resize(size.x, size.y);
      this.render(camera);
    });
  }

  /** The picture as a file, smooth and without marks. */
  async snapshot(form: "png" | "jpeg"): Promise<Blob> {
    const ratio = this.renderer.getPixelRatio();
    this.marks.group.visible = false;
    this.renderer.setPixelRatio(2);
    this.renderer.render(this.scene, this.camera());
    const blob = await new Promise<Blob | null>((done) =>
      this.renderer.domElement.toBlob(done, `image/${form}`, 0.92),
    );
    this.marks.group.visible = true;
    this.renderer.setPixelRatio(ratio);
    this.draw();
    if (!blob) throw new Error("The browser could not make a picture of the desk.");
    return blob;
  }

  private settleLater() {
    clearTimeout(this.settling);
    if (this.renderer.getPixelRatio() !== 1) this.renderer.setPixelRatio(1);
    this.settling = window.setTimeout(() => {
      if (!this.view || this.disposed) return;
      this.renderer.setPixelRatio(2);
      this.render(this.camera());
    }, REST);
  }

  /** With the traced picture lying beneath, only the marks are drawn, cut off by what is in front of them. */
  showTraced(traced: boolean) {
    if (this.traced === traced) return;
    this.traced = traced;
    this.draw();
  }

  private render(camera: PerspectiveCamera | OrthographicCamera) {
    if (!this.traced) {
      this.renderer.render(this.scene, camera);
      return;
    }
    this.renderer.setClearAlpha(0);
    this.renderer.clear();
    if (this.marks.any) this.renderMarks(camera);
    this.renderer.setClearAlpha(1);
  }

  /** The depth of what is opaque, then the marks, over what is there. */
  private renderMarks(camera: PerspectiveCamera | OrthographicCamera) {
    const { marks, product, scene, renderer } = this;
    const clear = [...this.parts.values()].filter((part) => part.mesh.visible && isClear(part));
    const aside = [this.backdrop.mesh, this.shadow.mesh, ...clear.map((part) => part.mesh)];
    const visible = aside.map((object) => object.visible);
    for (const object of aside) object.visible = false;
    marks.group.visible = false;
    scene.overrideMaterial = this.depthOnly;
    renderer.autoClear = false;
    renderer.render(scene, camera);
    scene.overrideMaterial = null;
    marks.group.visible = true;
    product.visible = false;
    renderer.render(scene, camera);
    renderer.autoClear = true;
    product.visible = true;
    aside.forEach((object, index) => {
      object.visible = visible[index]!;
    });
  }

  private updateShadow() {
    const aside = [this.backdrop.mesh, this.marks.group];
    for (const object of aside) object.visible = false;
    this.shadow.update(this.renderer, this.scene, this.bounds(), this.floor);
    for (const object of aside) object.visible = true;
    this.shadowDirty = false;
  }

  dispose() {
    this.disposed = true;
    cancelAnimationFrame(this.frame);
    clearTimeout(this.settling);
    this.environment?.dispose();
    this.pmrem.dispose();
    this.shadow.dispose();
    this.renderer.dispose();
  }
}
