import {
  type Box3,
  Euler,
  PMREMGenerator,
  type Scene,
  type Texture,
  Vector3,
  type WebGLRenderer,
} from "three";
import type { Lighting } from "../api/client";
import { QuickFilter } from "./quickFilter";
import { loadMap } from "./surroundings";

/** Share of the product's diagonal by which its middle may move before its light is worked out anew. */
const LIT_ALIKE = 0.1;

/** What gives light, as the light of the shaded picture: the surroundings, with all lamps drawn into them. */
export class Environment {
  private readonly pmrem: PMREMGenerator;
  private texture?: Texture;
  private seen?: Texture;
  private key = "";
  private seenKey = "";
  private disposed = false;
  private middle?: Vector3;
  /** A map is being made; the wish that came last meanwhile is followed next, and none between. */
  private busy = false;
  private next?: () => Promise<void>;

  constructor(
    renderer: WebGLRenderer,
    private readonly scene: Scene,
    software: boolean,
  ) {
    this.pmrem = software ? new QuickFilter(renderer) : new PMREMGenerator(renderer);
  }

  /** Lights what lies within bounds. */
  async light(lighting: Lighting, bounds: Box3) {
    const center = this.litFrom(bounds).toArray();
    const level = lighting.on ? lighting.brightness : 0;
    const bare = Object.values(lighting.lamps).every((lamp) => !lamp.on);
    // Without lamps a map serves at any brightness and however it is turned.
    const wish = bare ? { ...lighting, lamps: {}, on: true, brightness: 1, turn: 0 } : lighting;
    this.scene.environmentIntensity = bare ? level : 1;
    this.scene.environmentRotation = rotation(bare ? lighting.turn : 0);
    await Promise.all([this.show(wish, center), this.showBehind(lighting)]);
  }

  /** From where lamps are seen: the product's middle, or where it was, as long as that is near. A new map costs. */
  private litFrom(bounds: Box3): Vector3 {
    const middle = bounds.getCenter(new Vector3());
    const near = bounds.getSize(new Vector3()).length() * LIT_ALIKE;
    if (!this.middle || this.middle.distanceTo(middle) > near) this.middle = middle;
    return this.middle;
  }

  /** One map at a time: while a slider is dragged, each would be outdated before it is there. */
  private async show(lighting: Lighting, center: [number, number, number]) {
    if (this.busy) {
      this.next = () => this.show(lighting, center);
      return;
    }
    this.busy = true;
    try {
      await this.make(lighting, center);
    } finally {
      this.busy = false;
      const next = this.next;
      this.next = undefined;
      if (next && !this.disposed) await next();
    }
  }

  private async make(lighting: Lighting, center: [number, number, number]) {
    const { name, backdrop, floor_finish, glow, ...light } = lighting;
    const key = JSON.stringify([light, backdrop.bottom, Object.keys(light.lamps).length > 0 && center]);
    if (key === this.key) return;
    this.key = key;
    const map = await loadMap("lighting-map", lighting, center);
    if (this.disposed || key !== this.key) return;
    const previous = this.texture;
    this.texture = this.pmrem.fromEquirectangular(map).texture;
    map.dispose();
    this.scene.environment = this.texture;
    previous?.dispose();
  }

  /** The surroundings behind the product, where the backdrop is they. */
  private async showBehind(lighting: Lighting) {
    const { backdrop } = lighting;
    const wanted = backdrop.kind === "environment" && !backdrop.transparent;
    this.scene.backgroundBlurriness = backdrop.blur * 0.6;
    this.scene.backgroundRotation = rotation(lighting.turn);
    const { surroundings, contrast, saturation, tint, tilt } = lighting;
    const sun = surroundings === "daylight" && Object.values(lighting.lamps).find(isSun);
    const seen = [surroundings, contrast, saturation, tint, tilt, backdrop.level, sun];
    const key = wanted ? JSON.stringify(seen) : "";
    if (key === this.seenKey) return;
    this.seenKey = key;
    const map = wanted ? await loadMap("backdrop-map", { ...lighting, turn: 0 }, [0, 0, 0]) : undefined;
    if (this.disposed || key !== this.seenKey) return map?.dispose();
    this.seen?.dispose();
    this.seen = map;
    this.scene.background = map ?? null;
  }

  dispose() {
    this.disposed = true;
    this.texture?.dispose();
    this.seen?.dispose();
    this.pmrem.dispose();
  }
}

function isSun(lamp: Lighting["lamps"][string]): boolean {
  return lamp.kind === "distant";
}

/** The map is z-up and starts at the back; three.js samples y-up from +x. */
function rotation(degrees: number): Euler {
  return new Euler(Math.PI / 2, 0, (degrees * Math.PI) / 180, "ZXY");
}
