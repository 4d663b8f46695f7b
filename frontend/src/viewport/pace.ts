import type { WebGLRenderer } from "three";

/** Milliseconds between two looks at whether a frame is done. */
const LOOK = 15;

/** Draws one frame at a time. Without a graphics card one takes a good part of a second, and a browser takes on several
 * of them: what is seen would lag behind the pointer by all that wait, and a new size of the picture wait for the last. */
export class Pace {
  private frame = 0;
  private fence: WebGLSync | null = null;
  private began = 0;
  private timer = 0;
  private readonly gl: WebGL2RenderingContext;
  /** Milliseconds that the last frame took. */
  took = 0;

  constructor(
    renderer: WebGLRenderer,
    private readonly software: boolean,
  ) {
    this.gl = renderer.getContext() as WebGL2RenderingContext;
  }

  /** Whether nothing is being drawn. */
  get free(): boolean {
    return this.fence === null;
  }

  /** Draws at the browser's next frame, or as soon as the frame before is done. */
  soon(draw: () => void) {
    if (this.frame) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      if (this.free) this.now(draw);
      else this.soon(draw);
    });
  }

  /** Draws at once. */
  now(draw: () => void) {
    draw();
    if (!this.software) return;
    clearTimeout(this.timer);
    if (this.fence) this.gl.deleteSync(this.fence);
    this.fence = this.gl.fenceSync(this.gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    this.gl.flush();
    this.began = performance.now();
    this.look();
  }

  private look() {
    this.timer = window.setTimeout(() => {
      if (!this.fence) return;
      const waits = this.gl.getSyncParameter(this.fence, this.gl.SYNC_STATUS) === this.gl.UNSIGNALED;
      if (waits && !this.gl.isContextLost()) {
        this.look();
        return;
      }
      this.gl.deleteSync(this.fence);
      this.fence = null;
      this.took = performance.now() - this.began;
    }, LOOK);
  }

  dispose() {
    cancelAnimationFrame(this.frame);
    clearTimeout(this.timer);
  }
}
