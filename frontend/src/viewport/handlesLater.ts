import type { OrthographicCamera, PerspectiveCamera, Scene } from "three";
import type { Handles, HandleWish } from "./handles";
import type { StagedPart } from "./stagedPart";

/** Handles whose code is fetched when they are wished for the first time. */
export class HandlesLater {
  private handles?: Handles;
  private wished?: HandleWish;
  private gone = false;

  constructor(
    private readonly canvas: HTMLElement,
    private readonly scene: Scene,
    private readonly parts: () => ReadonlyMap<string, StagedPart>,
    private readonly redraw: () => void,
  ) {}

  /** Puts them on something, or takes them away. */
  wish(wish: HandleWish | undefined) {
    this.wished = wish;
    if (!wish && !this.handles?.wanted) return;
    if (this.handles) {
      this.handles.on(wish, this.parts());
      this.redraw();
      return;
    }
    import("./handles").then(({ Handles }) => {
      if (this.gone || this.handles) return;
      this.handles = new Handles(this.canvas, this.redraw);
      this.scene.add(this.handles.object);
      this.wish(this.wished);
    });
  }

  /** Whether the pointer has hold of one, or would have with the next press. */
  get held(): boolean {
    return this.handles?.held ?? false;
  }

  follow(camera: PerspectiveCamera | OrthographicCamera) {
    this.handles?.follow(camera);
  }

  dispose() {
    this.gone = true;
    this.handles?.dispose();
  }
}
