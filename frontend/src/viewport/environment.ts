import { Euler, PMREMGenerator, type Scene, type Texture, type WebGLRenderer } from "three";
import type { Lighting } from "../api/client";
import { loadSurroundings } from "./surroundings";

/** What surrounds the product, as the light of the shaded picture. */
export class Environment {
  private readonly pmrem: PMREMGenerator;
  private texture?: Texture;
  private key = "";
  private disposed = false;

  constructor(
    renderer: WebGLRenderer,
    private readonly scene: Scene,
  ) {
    this.pmrem = new PMREMGenerator(renderer);
  }

  async light(lighting: Required<Lighting>, bottom: string) {
    this.scene.environmentIntensity = lighting.brightness;
    // The map is z-up and starts at the back; three.js samples y-up from +x.
    this.scene.environmentRotation = new Euler(Math.PI / 2, 0, (lighting.turn * Math.PI) / 180, "ZXY");
    const key = `${lighting.surroundings}-${bottom}`;
    if (key === this.key) return;
    this.key = key;
    const map = await loadSurroundings(lighting.surroundings, bottom);
    if (this.disposed || key !== this.key) return;
    const previous = this.texture;
    this.texture = this.pmrem.fromEquirectangular(map).texture;
    map.dispose();
    this.scene.environment = this.texture;
    previous?.dispose();
  }

  dispose() {
    this.disposed = true;
    this.texture?.dispose();
    this.pmrem.dispose();
  }
}
