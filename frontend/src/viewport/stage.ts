import {
  Box3,
  BufferGeometry,
  DataTexture,
  EquirectangularReflectionMapping,
  Euler,
  Group,
  HalfFloatType,
  LinearFilter,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Mesh,
  type MeshPhysicalMaterial,
  NeutralToneMapping,
  NoToneMapping,
  OrthographicCamera,
  PerspectiveCamera,
  PMREMGenerator,
  Raycaster,
  RGBAFormat,
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
import { toMaterial } from "./materials";
import { loadMesh, type PartMesh } from "./meshblock";
import { Outline } from "./outline";

Mesh.prototype.raycast = acceleratedRaycast;

/** Milliseconds without a change after which a frame drawn in software is drawn again, smooth. */
const REST = 250;
const MAP_SIZE = { width: 512, height: 256 };

interface StagedPart {
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
  private readonly outline = new Outline();
  private readonly hoverOutline = new Outline("#23272e", 1.5);
  private readonly creaseMaterial = new LineBasicMaterial({
    color: "#0b6b73",
    depthTest: false,
    transparent: true,
    opacity: 0.35,
  });
  private readonly marks = new Group();
  private readonly hoverMarks = new Group();
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
    });
    this.renderer.setPixelRatio(this.software ? 1 : Math.min(window.devicePixelRatio, 2));
    this.renderer.autoClear = true;
    this.pmrem = new PMREMGenerator(this.renderer);
    this.scene.add(this.backdrop.mesh, this.shadow.mesh, this.marks, this.hoverMarks);
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
        this.scene.add(group);
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
      this.materials.set(id, material);
    }
    return material;
  }

  async light(lighting: Required<Lighting>, exposure: number, tone: string) {
    const backdrop = lighting.backdrop;
    const bottom = backdrop.bottom ?? "#F1EBE2";
    const top = backdrop.kind === "plain" ? bottom : (backdrop.top ?? bottom);
    this.backdrop.set(bottom, top, lighting.brightness);
    this.shadow.mesh.visible = lighting.floor;
    this.renderer.toneMapping = tone === "neutral" ? NeutralToneMapping : NoToneMapping;
    this.renderer.toneMappingExposure = 2 ** (REFERENCE_EV - exposure);
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
    this.marks.clear();
    for (const uid of uids) {
      const part = this.parts.get(uid);
      if (!part?.mesh.visible) continue;
      this.marks.add(...this.outlined(part, this.outline, 5));
      if (uids.size <= 60)
        this.marks.add(this.placed(new LineSegments(part.source.creases, this.creaseMaterial), part));
    }
    this.draw();
  }

  hover(uid: string | undefined) {
    if (uid === this.hovered) return;
    this.hovered = uid;
    this.hoverMarks.clear();
    const part = uid ? this.parts.get(uid) : undefined;
    if (part?.mesh.visible) {
      this.hoverMarks.add(...this.outlined(part, this.hoverOutline, 7));
    }
    this.draw();
  }

  private outlined(part: StagedPart, outline: Outline, order: number): Mesh[] {
    const { material } = part.mesh;
    const clear = !Array.isArray(material) && material.transparent;
    return outline.materials(clear).map((look, step) => {
      const mesh = this.placed(new Mesh(part.source.surface, look), part);
      mesh.renderOrder = order + step;
      return mesh;
    });
  }

  private placed<T extends Mesh | LineSegments>(object: T, part: StagedPart): T {
    object.matrixAutoUpdate = false;
    object.matrix.copy(part.group.matrix);
    object.raycast = () => undefined;
    object.renderOrder = 5;
    return object;
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
    camera.updateMatrixWorld();
    return camera;
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
      this.outline.resize(size.x, size.y);
      this.hoverOutline.resize(size.x, size.y);
      this.renderer.render(this.scene, camera);
    });
  }

  private settleLater() {
    clearTimeout(this.settling);
    if (this.renderer.getPixelRatio() !== 1) this.renderer.setPixelRatio(1);
    this.settling = window.setTimeout(() => {
      if (!this.view || this.disposed) return;
      this.renderer.setPixelRatio(2);
      this.renderer.render(this.scene, this.camera());
    }, REST);
  }

  private updateShadow() {
    const aside = [this.backdrop.mesh, this.marks, this.hoverMarks];
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

async function loadSurroundings(name: string, floor: string): Promise<DataTexture> {
  const reply = await fetch(`/api/lightings/${name}/map?floor=${floor.replace("#", "")}`);
  if (!reply.ok) throw new Error(`surroundings ${reply.status}`);
  const { width, height } = MAP_SIZE;
  const texture = new DataTexture(
    new Uint16Array(await reply.arrayBuffer()),
    width,
    height,
    RGBAFormat,
    HalfFloatType,
  );
  texture.flipY = false;
  texture.mapping = EquirectangularReflectionMapping;
  texture.minFilter = texture.magFilter = LinearFilter;
  texture.needsUpdate = true;
  return texture;
}

/** Whether WebGL runs on hardware; in software multisampling alone would double the time of a frame. */
function hasGpu(): boolean {
  const probe = document.createElement("canvas").getContext("webgl2");
  if (!probe) return false;
  const info = probe.getExtension("WEBGL_debug_renderer_info");
  const name = String(probe.getParameter(info ? info.UNMASKED_RENDERER_WEBGL : probe.RENDERER));
  probe.getExtension("WEBGL_lose_context")?.loseContext();
  return !/swiftshader|llvmpipe|software/i.test(name);
}
