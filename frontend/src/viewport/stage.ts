import {
  Box3,
  CustomToneMapping,
  Group,
  type OrthographicCamera,
  type PerspectiveCamera,
  Scene,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import type { Appearance, Lighting, Model, Standing } from "../api/client";
import { REFERENCE_EV } from "../api/generated/facts";
import type { View } from "../state/camera";
import type { FaceOf } from "../state/giving";
import type { FloorPlane } from "../state/lighting";
import { Aim } from "./aim";
import { Backdrop } from "./backdrop";
import { fileOf, type PictureForm } from "./canvasFile";
import { ContactShadow } from "./contactShadow";
import { Crowds } from "./crowds";
import type { Grip } from "./decalGrips";
import { Decals } from "./decals";
import { Defects } from "./defects";
import { Environment } from "./environment";
import { type Finish, setFinish } from "./finish";
import { hasGpu } from "./gpu";
import { Ground, type GroundShown } from "./ground";
import type { HandleWish } from "./handles";
import { HandlesLater } from "./handlesLater";
import { LampMarks } from "./lampMarks";
import { Lens } from "./lens";
import { isClear, Marks } from "./marks";
import { renderMarksAlone } from "./marksAlone";
import { Pace } from "./pace";
import { type Change, Parts } from "./parts";
import { cornersOf, quicken } from "./picking";
import { Rest } from "./rest";
import { type Sharp, SharpBand } from "./sharpBand";
import type { StagedPart } from "./stagedPart";

/** The shaded picture: owns the WebGL scene and draws a frame only when something has changed. */
export class Stage {
  readonly scene = new Scene();
  private readonly renderer: WebGLRenderer;
  /** Drawn without a graphics card: rough while things move, smooth once they rest. */
  private readonly software: boolean;
  private readonly pace: Pace;
  private readonly rest: Rest;
  private readonly lens = new Lens();
  private readonly backdrop = new Backdrop();
  private readonly shadow = new ContactShadow();
  private readonly floorSurface = new Ground();
  private readonly parts = new Parts((change) => this.changed(change));
  private readonly marks = new Marks();
  private readonly defects = new Defects();
  private readonly lampMarks = new LampMarks();
  readonly decals = new Decals(
    () => this.parts.by,
    () => this.draw(),
  );
  private readonly sharp = new SharpBand();
  readonly aim = new Aim({
    parts: () => this.parts.by,
    camera: () => this.view && this.camera(),
    floor: () => this.floor,
  });
  private lighting?: Lighting;
  private readonly product = new Group();
  private readonly crowds = new Crowds(this.product);
  /** Whether parts came or went, moved or wear something else since they were last put into the scene. */
  private scattered = true;
  private readonly handles: HandlesLater;
  private traced = false;
  /** Whether its light is there. Drawn without, each kind of surface would be compiled for the dark, and again then. */
  private lit = false;
  private readonly environment: Environment;
  private hovered?: string;
  /** Around what is shown, once it is asked for. */
  private box?: Box3;
  /** Whether the view has not come to rest. */
  private moving = false;
  private shadowDirty = true;
  private view?: View;
  private floor: FloorPlane = { up: [0, 0, 1], height: 0 };
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
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, this.software ? 1 : 2));
    this.renderer.autoClear = true;
    this.renderer.toneMapping = CustomToneMapping;
    this.pace = new Pace(this.renderer, this.software);
    const fit = () => (this.view && !this.disposed ? this.fit(false) : undefined);
    const again = () => this.pace.now(() => this.render(this.camera()));
    this.rest = new Rest(this.renderer, this.software, this.pace, fit, again);
    this.environment = new Environment(this.renderer, this.scene, this.software);
    this.handles = new HandlesLater(
      canvas,
      this.scene,
      () => this.parts.by,
      () => this.draw(),
    );
    this.marks.group.add(this.lampMarks.group, this.decals.frame.group);
    this.scene.add(this.backdrop.mesh, this.floorSurface.mesh, this.shadow.mesh, this.product);
    this.scene.add(this.decals.group, this.defects.group, this.marks.group);
  }

  /** Loads what is new of an arrangement, moves what was moved, drops what is gone, see `Parts.load`. */
  async load(model: Model): Promise<void> {
    this.decals.know(model);
    await this.parts.load(model);
    quicken().catch(() => undefined);
  }

  /** Called when fine meshes have come. */
  onRenewed?: () => void;

  /** Bytes of the geometry that is loaded, and how many it may be. */
  get memory(): { used: number; most: number } {
    return this.parts.memory;
  }

  /** Shows what the standing says: who is visible and what everybody wears. */
  dress(standing: Standing, previews: Record<string, Appearance>) {
    this.parts.dress(standing, previews);
    this.decals.follow(standing.scene);
  }

  private changed(change: Change) {
    if (change === "picture") {
      this.drawSurfaces();
      return;
    }
    this.scattered = true;
    if (change !== "worn") this.decals.again();
    if (change === "shown") {
      this.shadowDirty = true;
      this.box = undefined;
    }
    if (change === "mesh") {
      this.onRenewed?.();
      this.rest.later();
    }
    if (change === "worn") this.drawSurfaces();
    else this.draw();
  }

  async light(lighting: Lighting, finish: Finish) {
    this.lighting = lighting;
    this.backdrop.set(lighting.backdrop, this.aspect, () => this.drawSurfaces());
    this.shadow.mesh.visible = lighting.floor;
    this.shadow.strength = lighting.floor_finish.shadow;
    if (setFinish(finish)) {
      this.parts.compileAnew();
    }
    this.renderer.toneMappingExposure = 2 ** (REFERENCE_EV - finish.exposure);
    await this.environment.light(lighting, this.bounds());
    if (this.disposed) return;
    if (this.lit) this.drawSurfaces();
    else {
      this.lit = true;
      this.draw();
    }
  }

  /** Shows the floor where it is more than the backdrop's colour. */
  showGround(shown: GroundShown | undefined) {
    this.floorSurface.show(shown, () => this.drawSurfaces());
    this.drawSurfaces();
  }

  /** Marks lamps where they stand; none without a lighting. */
  showLamps(lamps: Lighting["lamps"] | undefined, light: string) {
    if (!lamps && !this.lampMarks.any) return;
    this.lampMarks.show(lamps, light);
    this.draw();
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
    if (this.parts.fadeBut(faded && uids.size > 0 ? uids : undefined)) this.scattered = true;
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
    const part = this.parts.by.get(uid);
    return part?.mesh.visible ? part : undefined;
  }

  look(view: View) {
    this.view = view;
    if (this.parts.hasStandIns) {
      if (!this.moving) this.fit(true);
      this.rest.later();
    }
    this.draw();
  }

  resize(width: number, height: number) {
    if (width < 1 || height < 1) return;
    this.renderer.setSize(width, height, false);
    this.aspect = width / height;
    if (this.lighting) this.backdrop.set(this.lighting.backdrop, this.aspect, () => this.drawSurfaces());
    this.draw();
  }

  /** Chooses how finely each part is drawn; whether that is other than before. */
  private fit(moving: boolean): boolean {
    this.moving = moving;
    const { height } = this.renderer.domElement;
    const other = this.parts.fit(this.camera(), height, moving, this.software);
    if (other) this.scattered = true;
    return other;
  }

  /** Puts the parts into the scene as they are now. Called before anything is drawn. */
  private gather() {
    if (!this.scattered && !this.handling) return;
    this.scattered = false;
    this.crowds.arrange(this.parts.by.values(), (material) => this.parts.crowds(material));
  }

  private camera(): PerspectiveCamera | OrthographicCamera {
    const size = this.bounds().isEmpty() ? 0 : this.bounds().getSize(new Vector3()).length();
    return this.lens.set(this.view!, this.aspect, size);
  }

  /** Corner points of what is shown (or of some parts), for fitting. */
  points(uids?: ReadonlySet<string>): Vector3[] {
    return [...this.parts.by.values()].flatMap((part) =>
      part.mesh.visible && (!uids || uids.has(part.uid)) ? cornersOf(part) : [],
    );
  }

  private bounds(): Box3 {
    this.box ??= new Box3().setFromPoints(this.points());
    return this.box;
  }

  /** The grip of the selected decal under a position given in -1..1. */
  gripAt(x: number, y: number): Grip | undefined {
    const size = this.renderer.getSize(new Vector2());
    return this.view && this.decals.gripAt(this.camera(), size, x, y);
  }

  /** Lays the floor where it is. */
  lay(floor: FloorPlane) {
    this.floor = floor;
    this.shadowDirty = true;
    this.drawSurfaces();
  }

  /** Tints what is sharp in a shot that is seen from a view; nothing without. */
  showSharp(sharp?: Sharp, view?: View) {
    this.sharp.set(sharp, view);
    this.draw();
  }

  /** Handles on something, with what they move previewed until they are let go. */
  handle(wish: HandleWish | undefined) {
    this.handles.wish(wish);
  }

  get handling(): boolean {
    return this.handles.held;
  }

  draw() {
    if (this.disposed || !this.lit) return;
    this.pace.soon(() => {
      if (!this.view || this.disposed) return;
      this.rest.moves();
      const camera = this.camera();
      this.handles.follow(camera);
      this.gather();
      if (this.shadowDirty && this.shadow.mesh.visible && this.parts.by.size) this.updateShadow();
      const size = this.renderer.getSize(new Vector2());
      this.marks.resize(size.x, size.y);
      this.decals.frame.suit(camera, size);
      this.render(camera);
    });
  }

  /** Draws after a change that no mark shows: nothing to do while the traced picture lies beneath. */
  private drawSurfaces() {
    if (!this.traced) this.draw();
  }

  /** The picture as a file, at least so many pixels wide, smooth and without marks. */
  async snapshot(form: PictureForm, width: number): Promise<Blob> {
    const ratio = this.renderer.getPixelRatio();
    this.marks.group.visible = false;
    this.renderer.setPixelRatio(Math.max(2, width / this.renderer.getSize(new Vector2()).x));
    this.gather();
    this.renderer.render(this.scene, this.camera());
    const blob = await fileOf(this.renderer.domElement, form);
    this.marks.group.visible = true;
    this.renderer.setPixelRatio(ratio);
    this.draw();
    return blob;
  }

  /** With the traced picture lying beneath, only the marks are drawn, cut off by what is in front of them. */
  showTraced(traced: boolean) {
    if (this.traced === traced) return;
    this.traced = traced;
    this.draw();
  }

  private render(camera: PerspectiveCamera | OrthographicCamera) {
    this.handles.follow(camera);
    this.gather();
    if (!this.traced) {
      this.renderer.render(this.scene, camera);
      this.sharp.render(this.renderer, this.scene, camera, this.product);
      return;
    }
    this.renderer.setClearAlpha(0);
    this.renderer.clear();
    if (this.marks.any || this.lampMarks.any || this.decals.frame.shown || this.sharp.any) {
      const clear = [...this.parts.by.values()].filter((part) => part.mesh.visible && isClear(part));
      // The traced picture has the decals; one that is being moved is ahead of it.
      const decals = this.decals.busy ? [] : [this.decals.group];
      renderMarksAlone(this.renderer, this.scene, camera, {
        product: this.product,
        marks: this.marks.group,
        aside: [
          this.backdrop.mesh,
          this.floorSurface.mesh,
          this.shadow.mesh,
          ...decals,
          ...clear.map((part) => part.mesh),
        ],
      });
    }
    this.sharp.render(this.renderer, this.scene, camera, this.product);
    this.renderer.setClearAlpha(1);
  }

  private updateShadow() {
    const aside = [this.backdrop.mesh, this.floorSurface.mesh, this.marks.group];
    this.shadow.update(this.renderer, this.scene, this.bounds(), this.floor, aside);
    this.shadowDirty = false;
  }

  dispose() {
    this.disposed = true;
    this.parts.dispose();
    this.pace.dispose();
    this.rest.dispose();
    this.environment.dispose();
    this.backdrop.dispose();
    this.lampMarks.dispose();
    this.decals.dispose();
    this.shadow.dispose();
    this.floorSurface.dispose();
    this.sharp.dispose();
    this.handles.dispose();
    this.renderer.dispose();
  }
}
