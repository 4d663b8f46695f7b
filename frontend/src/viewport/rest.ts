import type { WebGLRenderer } from "three";

/** Milliseconds without a change after which what is drawn counts as resting. */
const REST = 250;

/** Draws better once nothing moves any more. Without a graphics card pictures are rough meanwhile, and smooth then. */
export class Rest {
  private timer = 0;

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly software: boolean,
    /** Chooses how finely everything is drawn; whether that is other than before, and undefined where nothing is. */
    private readonly fit: () => boolean | undefined,
    private readonly draw: () => void,
  ) {}

  /** Something moved: it rests later. */
  later() {
    clearTimeout(this.timer);
    const quick = Math.min(window.devicePixelRatio, 1);
    if (this.software && this.renderer.getPixelRatio() !== quick) this.renderer.setPixelRatio(quick);
    this.timer = window.setTimeout(() => {
      const other = this.fit();
      if (other === undefined) return;
      if (this.software) this.renderer.setPixelRatio(Math.min(2 * window.devicePixelRatio, 2));
      if (other || this.software) this.draw();
    }, REST);
  }

  dispose() {
    clearTimeout(this.timer);
  }
}
