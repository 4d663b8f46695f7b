import { Group, Matrix4, Object3D, type OrthographicCamera, type PerspectiveCamera } from "three";
import { TransformControls } from "three/addons/controls/TransformControls.js";
import type { StagedPart } from "./stagedPart";

export interface HandleWish {
  /** Parts that move along. */
  uids: ReadonlySet<string>;
  /** Where the handles sit, in the review's frame. */
  frame: Matrix4;
  /** Drawn in the frame. */
  guide?: Object3D;
  onRelease: (moved: Matrix4) => void;
}

/** Arrows that shift and rings that turn. What they move follows at once; letting go says by how much. */
export class Handles {
  readonly object = new Group();
  private readonly anchor = new Object3D();
  private readonly tools: TransformControls[];
  private wish?: HandleWish;
  private readonly before = new Map<StagedPart, Matrix4>();
  private start = new Matrix4();
  private busy = false;

  constructor(canvas: HTMLElement, redraw: () => void) {
    this.tools = (["translate", "rotate"] as const).map((mode) => {
      const tool = new TransformControls(undefined as unknown as PerspectiveCamera, canvas);
      tool.setMode(mode);
      tool.setSpace("world");
      tool.setSize(mode === "translate" ? 0.55 : 0.85);
      tool.addEventListener("change", redraw);
      tool.addEventListener("mouseDown", () => this.grab());
      tool.addEventListener("objectChange", () => this.drag());
      tool.addEventListener("mouseUp", () => this.release());
      // While one is held, the other must not answer.
      tool.addEventListener("dragging-changed", (event) => {
        this.busy = event.value as boolean;
        for (const other of this.tools) if (other !== tool) other.enabled = !this.busy;
      });
      this.object.add(tool.getHelper());
      return tool;
    });
    this.object.add(this.anchor);
  }

  on(wish: HandleWish | undefined, parts: ReadonlyMap<string, StagedPart>) {
    this.wish = wish;
    this.before.clear();
    this.anchor.clear();
    if (wish?.guide) this.anchor.add(wish.guide);
    for (const tool of this.tools) {
      if (wish) tool.attach(this.anchor);
      else tool.detach();
    }
    if (!wish) {
      this.busy = false;
      return;
    }
    for (const uid of wish.uids) {
      const part = parts.get(uid);
      if (part) this.before.set(part, part.group.matrix.clone());
    }
    wish.frame.decompose(this.anchor.position, this.anchor.quaternion, this.anchor.scale);
    this.anchor.updateMatrixWorld();
  }

  get wanted(): boolean {
    return this.wish !== undefined;
  }

  /** Whether the pointer has hold of a handle, or would have with the next press. */
  get held(): boolean {
    return this.busy || this.tools.some((tool) => tool.axis !== null);
  }

  /** Called before each frame: the handles keep their size on the screen. */
  follow(camera: PerspectiveCamera | OrthographicCamera) {
    for (const tool of this.tools) tool.camera = camera;
  }

  private grab() {
    this.anchor.updateMatrix();
    this.start = this.anchor.matrix.clone();
  }

  private moved(): Matrix4 {
    this.anchor.updateMatrix();
    return this.anchor.matrix.clone().multiply(this.start.clone().invert());
  }

  private drag() {
    const moved = this.moved();
    for (const [part, matrix] of this.before) {
      part.group.matrix.multiplyMatrices(moved, matrix);
      part.group.matrixWorldNeedsUpdate = true;
    }
  }

  private release() {
    const moved = this.moved();
    if (!moved.equals(new Matrix4())) this.wish?.onRelease(moved);
  }

  dispose() {
    for (const tool of this.tools) tool.dispose();
  }
}
