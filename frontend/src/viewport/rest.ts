import { Vector2, type WebGLRenderer } from "three";
import type { Pace } from "./pace";

/** Milliseconds without a change after which what is drawn counts as resting, and as resting for long. */
const REST = 250;
const LONG = 1500;
/** Milliseconds that a smooth frame may take as soon as things rest: whoever moves on then has to wait for it. */
const SHORT = 600;
/** Pixels of a picture so small that they cost next to nothing beside the triangles: it is always smooth. */
const FEW = 100_000;
/** Milliseconds between two tries while a frame is being drawn. */
const AGAIN = 50;

/** Draws better once nothing moves any more. Without a graphics card pictures are rough meanwhile, and smooth then: at
 * once where that is quick, else when things have rested for long. */
export class Rest {
  private timer = 0;

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly software: boolean,
    private readonly pace: Pick<Pace, "free" | "took">,
    /** Chooses how finely everything is drawn; whether that is other than before, and undefined where nothing is. */
    private readonly fit: () => boolean | undefined,
    private readonly draw: () => void,
  ) {}

  /** What moves is about to be drawn: roughly where that helps. A new size empties the picture. */
  moves() {
    if (!this.software) return;
    const ratio = this.isSmall ? this.smooth : Math.min(window.devicePixelRatio, 1);
    if (this.renderer.getPixelRatio() !== ratio) this.renderer.setPixelRatio(ratio);
    this.later();
  }

  /** Something changed: it rests later. */
  later() {
    this.after(REST, () => this.settle());
  }

  private settle() {
    const other = this.fit();
    if (other === undefined) return;
    if (!this.software || this.isSmall) {
      if (other) this.draw();
      return;
    }
    const times = (this.smooth / this.renderer.getPixelRatio()) ** 2;
    if (this.pace.took * times <= SHORT) this.drawSmooth();
    else {
      if (other) this.draw();
      this.after(LONG - REST, () => this.drawSmooth());
    }
  }

  private get isSmall(): boolean {
    const { x, y } = this.renderer.getSize(new Vector2());
    return x * y * this.smooth ** 2 < FEW;
  }

  private get smooth(): number {
    return Math.min(2 * window.devicePixelRatio, 2);
  }

  private drawSmooth() {
    this.renderer.setPixelRatio(this.smooth);
    this.draw();
  }

  /** Does something after a time, when no frame is being drawn: a new size of the picture would wait for it. */
  private after(time: number, act: () => void) {
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => (this.pace.free ? act() : this.after(AGAIN, act)), time);
  }

  dispose() {
    clearTimeout(this.timer);
  }
}
