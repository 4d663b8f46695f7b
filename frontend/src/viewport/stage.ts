import {
  Box3,
  CustomToneMapping,
  Group,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  type MeshPhysicalMaterial,
  type OrthographicCamera,
  type PerspectiveCamera,
  Scene,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import { acceleratedRaycast } from "three-mesh-bvh";
import type { Appearance, Lighting, Model, Node, Standing } from "../api/client";
import { REFERENCE_EV } from "../api/generated/facts";
import type { FaceOf } from "../desk/deskStore";
import { Backdrop } from "./backdrop";
import type { View } from "./camera";
import { ContactShadow } from "./contactShadow";
import { Crowds } from "./crowds";
import { Defects } from "./defects";
import { Detail } from "./detail";
import { Environment } from "./environment";
import { type Finish, finishKey, setFinish } from "./finish";
import { hasGpu } from "./gpu";
import { Handles, type HandleWish } from "./handles";
import { Lens } from "./lens";
import { isClear, Marks } from "./marks";
import { renderMarksAlone } from "./marksAlone";
import { toMaterial } from "./materials";
import { loadMesh, type MeshForm, type PartMesh } from "./meshblock";
import { cornersOf, type Hit, hits } from "./picking";
import type { StagedPart } from "./stagedPart";
import { disposeOwn, formFor, wear, wearsOf } from "./wear";

Mesh.prototype.raycast = acceleratedRaycast;

/** Milliseconds without a change after which a frame drawn in software is drawn again, smooth. */
const REST = 250;

/** The shaded picture: owns the WebGL scene and draws a frame only when something has changed. */
export class Stage {
  readonly scene = new Scene();
  private readonly renderer: WebGLRenderer;
  /** Drawn without a graphics card: rough while things move, smooth once they rest. */
  private readonly software: boolean;
  private settling = 0;
  private readonly lens = new Lens();
  private readonly backdrop = new Backdrop();
  private readonly shadow = new ContactShadow();
  private readonly parts = new Map<string, StagedPart>();
  private readonly materials = new Map<string, { appearance: Appearance; material: MeshPhysicalMaterial }>();
  private readonly marks = new Marks();
  private readonly defects = new Defects();
  private readonly product = new Group();
  private readonly crowds = new Crowds(this.product);
  /** Whether parts came or went, moved or wear something else since they were last put into the scene. */
  private scattered = true;
  private readonly faint = new MeshBasicMaterial({
    color: "#8f8f8d",
    transparent: true,
    opacity: 0.12,
    depthWrite: false,
  });
  private faded?: ReadonlySet<string>;
  private handles?: Handles;
  private detail?: Detail;
  private standing?: Standing;
  private traced = false;
  private readonly environment: Environment;
  private frame = 0;
  private hovered?: string;
  private shadowDirty = true;
  private view?: View;
  private floor = 0;
  private disposed = false;
  /** Counts the arrangements that were asked for. */
  private loading = 0;
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
    this.environment = new Environment(this.renderer, this.scene);
    this.scene.add(this.backdrop.mesh, this.shadow.mesh, this.product, this.defects.group, this.marks.group);
  }

  /**
   * Loads what is new of an arrangement, moves what was moved, drops what is gone. Resolves when there is something of
   * everything: of a large assembly first coarse stand-ins, whose fine meshes follow.
   */
  async load(model: Model): Promise<void> {
    const turn = ++this.loading;
    const nodes = model.nodes.filter((node) => node.definition);
    const detail = new Detail(model);
    const sources = await Promise.all(
      nodes.map((node) =>
        loadMesh(model.definitions[node.definition!]!.mesh, detail.coarseFirst ? "coarse" : "fine"),
      ),
    );
    // Another arrangement was asked for meanwhile, by an undo for one: this one is no longer wanted.
    if (this.disposed || turn !== this.loading) return;
    this.detail = detail;
    const gone = new Set(this.parts.keys());
    nodes.forEach((node, index) => {
      gone.delete(node.uid);
      this.stage(node, model.definitions[node.definition!]!.mesh, sources[index]!);
    });
    for (const uid of gone) {
      disposeOwn(this.parts.get(uid)!);
      this.parts.delete(uid);
    }
    this.shadowDirty = true;
    this.scattered = true;
    this.draw();
    if (detail.coarseFirst) detail.refine(this.parts, (part) => this.renew(part)).catch(() => undefined);
  }

  /** A part got its fine mesh. */
  private renew(part: StagedPart) {
    if (this.disposed || !this.standing) return;
    const { worn, appearances } = this.standing;
    const own = worn[part.uid];
    if (own) wear(part, own.appearance, own.faces ?? {}, (id) => this.material(id, appearances));
    this.fade(part);
    this.scattered = true;
    this.onRenewed?.();
    this.draw();
  }

  /** Called when fine meshes have come. */
  onRenewed?: () => void;

  /** Bytes of the geometry that is loaded, and how many it may be. */
  get memory(): { used: number; most: number } {
    return { used: this.detail?.used(this.parts) ?? 0, most: Detail.MOST };
  }

  private stage(node: Node, key: string, source: PartMesh) {
    const known = this.parts.get(node.uid);
    // A part that has its fine mesh already keeps it.
    if (known?.key === key && known.source.triangles > source.triangles) source = known.source;
    const matrix = new Matrix4().set(...(node.world as Parameters<Matrix4["set"]>));
    if (known?.key === key) {
      known.group.matrix.copy(matrix);
      known.group.matrixWorldNeedsUpdate = true;
      return;
    }
    if (known) disposeOwn(known);
    const mesh = new Mesh(source.surface);
    const group = new Group();
    group.matrixAutoUpdate = false;
    group.matrix.copy(matrix);
    mesh.userData.uid = node.uid;
    mesh.visible = false;
    group.add(mesh);
    this.parts.set(node.uid, { uid: node.uid, model: node.model, key, group, mesh, source });
  }

  /** Shows what the standing says: who is visible and what everybody wears. */
  dress(standing: Standing, previews: Record<string, Appearance>) {
    const all = { ...standing.appearances, ...previews };
    const changed = this.forget(all);
    const before = this.standing;
    this.standing = standing;
    /** Whether what hides what is as it was. */
    let same = true;
    for (const part of this.parts.values()) {
      const worn = standing.worn[part.uid];
      const shown = worn !== undefined && standing.scene.states?.[part.uid] === undefined;
      if (part.mesh.visible !== shown) {
        this.shadowDirty = true;
        same = false;
      }
      part.mesh.visible = shown;
      if (
        worn &&
        worn === before?.worn[part.uid] &&
        part.dressed &&
        !wearsOf(worn).some((id) => changed.has(id))
      )
        continue;
      part.dressed = true;
      const clear = isClear(part);
      part.worn = undefined;
      if (worn) wear(part, worn.appearance, worn.faces ?? {}, (id) => this.material(id, all));
      if (worn) this.lay(part, formFor(worn, all));
      this.fade(part);
      same &&= clear === isClear(part);
    }
    this.floor = standing.floor;
    this.scattered = true;
    if (same) this.drawSurfaces();
    else this.draw();
  }

  /** Drops the materials of appearances that are not as they were, or gone; which those are. */
  private forget(all: Record<string, Appearance>): Set<string> {
    const changed = new Set<string>();
    for (const [id, { appearance, material }] of this.materials)
      if (all[id] !== appearance) {
        changed.add(id);
        material.dispose();
        this.materials.delete(id);
      }
    return changed;
  }

  /** Fetches the mesh with coordinates in mm for a part that wears pictures sized so, and the plain one afterwards. */
  private lay(part: StagedPart, form: MeshForm | undefined) {
    if (form === part.form) return;
    part.form = form;
    const { key } = part;
    loadMesh(key, form).then(
      (mesh) => {
        if (this.disposed || part.key !== key || part.form !== form) return;
        part.source = mesh;
        this.renew(part);
      },
      () => undefined,
    );
  }

  private material(id: string, all: Record<string, Appearance>): MeshPhysicalMaterial {
    const known = this.materials.get(id);
    if (known) return known.material;
    const appearance = all[id]!;
    const material = toMaterial(appearance, () => this.drawSurfaces());
    material.envMap = null;
    material.customProgramCacheKey = finishKey;
    this.materials.set(id, { appearance, material });
    return material;
  }

  async light(lighting: Required<Lighting>, finish: Finish) {
    const backdrop = lighting.backdrop;
    const bottom = backdrop.bottom ?? "#F1EBE2";
    const top = backdrop.kind === "plain" ? bottom : (backdrop.top ?? bottom);
    this.backdrop.set(bottom, top);
    this.shadow.mesh.visible = lighting.floor;
    if (setFinish(finish)) {
      for (const { material } of this.materials.values()) material.needsUpdate = true;
    }
    this.renderer.toneMappingExposure = 2 ** (REFERENCE_EV - finish.exposure);
    await this.environment.light(lighting, bottom);
    if (!this.disposed) this.drawSurfaces();
  }

  choose(uids: ReadonlySet<string>, faces: readonly FaceOf[], faded: boolean) {
    const whole = [...uids].filter((uid) => !faces.some((face) => face.uid === uid));
    const marked = this.marks.choose(
      whole.flatMap((uid) => this.shown(uid) ?? []),
      faces.flatMap(({ uid, face }) => {
        const part = this.shown(uid);
        return part ? [{ part, face }] : [];
      }),
    );
    const before = this.faded;
    this.faded = faded && uids.size > 0 ? uids : undefined;
    if (before || this.faded) {
      for (const part of this.parts.values()) this.fade(part);
      this.scattered = true;
    }
    if (marked) this.draw();
    else this.drawSurfaces();
  }

  /** Marks where these parts are not closed or face the wrong way. */
  showDefects(uids: ReadonlySet<string>) {
    const parts = [...uids].flatMap((uid) => this.shown(uid) ?? []);
    if (parts.length === 0 && this.defects.group.children.length === 0) return;
    this.defects.show(parts, () => this.draw()).catch(() => undefined);
    this.draw();
  }

  /** Draws a part faint when others stand out, and as it is otherwise. */
  private fade(part: StagedPart) {
    const faint = this.faded !== undefined && !this.faded.has(part.uid);
    if (faint && part.mesh.material !== this.faint) {
      part.worn = part.mesh.material;
      part.mesh.material = this.faint;
    } else if (!faint && part.worn) {
      part.mesh.material = part.worn;
      part.worn = undefined;
    }
  }

  hover(uid: string | undefined) {
    if (uid === this.hovered) return;
    this.hovered = uid;
    this.marks.hover(uid === undefined ? undefined : this.shown(uid));
    this.draw();
  }

  /** Outlines what would change. */
  lightUp(uids: ReadonlySet<string>) {
    this.marks.light([...uids].flatMap((uid) => this.shown(uid) ?? []));
    this.draw();
  }

  private shown(uid: string): StagedPart | undefined {
    const part = this.parts.get(uid);
    return part?.mesh.visible ? part : undefined;
  }

  look(view: View) {
    this.view = view;
    if (this.detail?.roughen(this.parts, this.software)) {
      this.scattered = true;
      this.settleLater();
    }
    this.draw();
  }

  resize(width: number, height: number) {
    if (width < 1 || height < 1) return;
    this.renderer.setSize(width, height, false);
    this.aspect = width / height;
    this.draw();
  }

  /** Puts the parts into the scene as they are now. Called before anything is drawn. */
  private gather() {
    if (!this.scattered && !this.handling) return;
    this.scattered = false;
    this.crowds.arrange(this.parts.values(), (material) => !material.transparent || material === this.faint);
  }

  private camera(): PerspectiveCamera | OrthographicCamera {
    const bounds = this.bounds();
    return this.lens.set(
      this.view!,
      this.aspect,
      bounds.isEmpty() ? 0 : bounds.getSize(new Vector3()).length(),
    );
  }

  /** Corner points of what is shown (or of some parts), for fitting. */
  points(uids?: ReadonlySet<string>): Vector3[] {
    return [...this.parts.values()].flatMap((part) =>
      part.mesh.visible && (!uids || uids.has(part.uid)) ? cornersOf(part) : [],
    );
  }

  private bounds(): Box3 {
    return new Box3().setFromPoints(this.points());
  }

  /** The part, face and point under a position given in -1..1, if any. */
  pick(x: number, y: number): Hit | undefined {
    return this.view && hits(this.parts.values(), this.camera(), x, y, false)[0];
  }

  /** Everything under a position, front to back. */
  pickAll(x: number, y: number): Hit[] {
    return this.view ? hits(this.parts.values(), this.camera(), x, y, true) : [];
  }

  /** Handles on something, with what they move previewed until they are let go. */
  handle(wish: HandleWish | undefined) {
    if (!wish && !this.handles?.wanted) return;
    if (!this.handles) {
      this.handles = new Handles(this.renderer.domElement, () => this.draw());
      this.scene.add(this.handles.object);
    }
    this.handles.on(wish, this.parts);
    this.draw();
  }

  get handling(): boolean {
    return this.handles?.held ?? false;
  }

  draw() {
    if (this.frame || this.disposed) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      if (!this.view || this.disposed) return;
      if (this.software) this.settleLater();
      const camera = this.camera();
      this.handles?.follow(camera);
      this.gather();
      if (this.shadowDirty && this.shadow.mesh.visible && this.parts.size) this.updateShadow();
      const size = this.renderer.getSize(new Vector2());
      this.marks.resize(size.x, size.y);
      this.render(camera);
    });
  }

  /** Draws after a change that no mark shows: nothing to do while the traced picture lies beneath. */
  private drawSurfaces() {
    if (!this.traced) this.draw();
  }

  /** The picture as a file, smooth and without marks. */
  async snapshot(form: "png" | "jpeg"): Promise<Blob> {
    const ratio = this.renderer.getPixelRatio();
    this.marks.group.visible = false;
    this.renderer.setPixelRatio(2);
    this.gather();
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
    if (this.software && this.renderer.getPixelRatio() !== 1) this.renderer.setPixelRatio(1);
    this.settling = window.setTimeout(() => {
      if (!this.view || this.disposed) return;
      if (this.detail?.smoothen(this.parts)) this.scattered = true;
      if (this.software) this.renderer.setPixelRatio(2);
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
    this.handles?.follow(camera);
    this.gather();
    if (!this.traced) {
      this.renderer.render(this.scene, camera);
      return;
    }
    this.renderer.setClearAlpha(0);
    this.renderer.clear();
    if (this.marks.any) {
      const clear = [...this.parts.values()].filter((part) => part.mesh.visible && isClear(part));
      renderMarksAlone(this.renderer, this.scene, camera, {
        product: this.product,
        marks: this.marks.group,
        aside: [this.backdrop.mesh, this.shadow.mesh, ...clear.map((part) => part.mesh)],
      });
    }
    this.renderer.setClearAlpha(1);
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
    this.environment.dispose();
    this.shadow.dispose();
    this.handles?.dispose();
    this.renderer.dispose();
  }
}
