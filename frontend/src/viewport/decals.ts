import {
  type BufferGeometry,
  type Camera,
  Group,
  Mesh,
  MeshStandardMaterial,
  type MeshStandardMaterialParameters,
  type Ray,
  SRGBColorSpace,
  type Texture,
  TextureLoader,
  type Vector2,
  type Vector3,
} from "three";
import type { Decal, Schemas, Standing } from "../api/client";
import { DecalFrame } from "./decalFrame";
import { type Grip, gripAt, pulled, rayIn, type Snapped, slid, spotOn, turnedTo } from "./decalGrips";
import { cut, draggedTo, laidOut } from "./decalShape";
import type { Hit } from "./picking";
import type { StagedPart } from "./stagedPart";

interface Laid {
  key: string;
  mesh: Mesh<BufferGeometry, MeshStandardMaterial>;
}

/** Decals of the shaded picture: cut out of the parts that they lie on, a hair in front of them. */
export class Decals {
  readonly group = new Group();
  private readonly laid = new Map<string, Laid>();
  private readonly loader = new TextureLoader();
  private readonly pictures = new Map<string, Texture>();
  private decals: Standing["scene"]["decals"] = {};
  private dragged?: { id: string; decal: Decal };
  private selected?: string;
  readonly frame = new DecalFrame();

  constructor(
    private readonly parts: () => ReadonlyMap<string, StagedPart>,
    private readonly redraw: () => void,
  ) {}

  /** Whether one is being moved, sized or turned. */
  get busy(): boolean {
    return this.dragged !== undefined;
  }

  /** Follows the scene. */
  follow({ decals, look }: Standing["scene"]) {
    const shown = Object.entries(decals).filter(([, decal]) => !decal.look || decal.look === look);
    this.decals = Object.fromEntries(shown);
    this.dragged = undefined;
    this.again();
  }

  /** The topmost decal that lies at a spot of a part. */
  at(hit: Hit): { id: string; decal: Decal } | undefined {
    const part = this.parts().get(hit.uid);
    if (!part) return undefined;
    const lies = Object.entries(this.decals).filter(([, decal]) => {
      if (!decal.on || decal.waits || decal.part !== hit.uid) return false;
      const [x, y] = laidOut(decal, hit.point.clone().applyMatrix4(part.group.matrix.clone().invert()));
      return Math.abs(x) <= decal.width / 2 && Math.abs(y) <= decal.height / 2;
    });
    const [id, decal] = lies.at(-1) ?? [];
    return id && decal ? { id, decal } : undefined;
  }

  /** Frames the decal that is selected. */
  select(id: string | undefined) {
    const was = this.frame.shown;
    this.selected = id;
    this.enframe();
    if (was || this.frame.shown) this.redraw();
  }

  private enframe(lines: Snapped["lines"] = [], lay?: Decal) {
    const decal = this.selected === undefined ? undefined : this.shown(this.selected);
    const part = decal && this.parts().get(decal.part);
    this.frame.show(part?.mesh.visible ? decal : undefined, part?.group.matrix, lines, lay);
  }

  /** The grip of the selected decal under a position in -1..1, in a picture of a size in pixels. */
  gripAt(camera: Camera, size: Vector2, x: number, y: number): Grip | undefined {
    const decal = this.selected === undefined ? undefined : this.decals[this.selected];
    const part = decal && this.parts().get(decal.part);
    if (!decal || !part || !this.frame.hasGrips) return undefined;
    return gripAt(decal, part.group.matrix, camera, size, x, y);
  }

  /** Shows the selected decal as a grip that is pulled along a ray makes it; what it would be. */
  pull(grip: Grip, ray: Ray, stepped: boolean): Decal | undefined {
    const decal = this.selected === undefined ? undefined : this.decals[this.selected];
    const part = decal && this.parts().get(decal.part);
    const spot = part && spotOn(decal, rayIn(part.group.matrix, ray));
    if (!decal || !spot) return this.dragged?.decal;
    return this.preview(grip.kind === "turn" ? turnedTo(decal, spot, stepped) : pulled(decal, grip, spot));
  }

  /** Shows a decal slid over its face from one spot to another, stopping at lines; what it would be. */
  slide(
    id: string,
    from: Vector3,
    to: Vector3,
    snaps: Schemas["Snaps"] | undefined,
    within: number,
  ): Snapped | undefined {
    const decal = this.decals[id];
    const part = decal && this.parts().get(decal.part);
    if (!decal || !part) return undefined;
    const inverse = part.group.matrix.clone().invert();
    const flat = { ...decal, turn: 0 };
    const [start, end] = [from, to].map((point) => laidOut(flat, point.clone().applyMatrix4(inverse)));
    const made = slid(decal, [end![0] - start![0], end![1] - start![1]], snaps, within);
    this.preview(made.decal, made.lines);
    return made;
  }

  private preview(decal: Decal, lines: Snapped["lines"] = []): Decal {
    this.dragged = { id: this.selected!, decal };
    this.again();
    this.enframe(lines, this.decals[this.selected!]);
    return decal;
  }

  /** Shows a decal where the pointer is, until the scene says where it lies; without an id, as the scene says. */
  drag(id: string | undefined, hit?: Hit) {
    const decal = id === undefined ? undefined : this.decals[id];
    const part = hit && this.parts().get(hit.uid);
    if (id !== undefined && !part) return;
    const from = decal && this.parts().get(decal.part);
    this.dragged = id && decal && part ? { id, decal: draggedTo(decal, from, part, hit) } : undefined;
    this.again();
    this.enframe();
  }

  private shown(id: string): Decal | undefined {
    return this.dragged?.id === id ? this.dragged.decal : this.decals[id];
  }

  /** Follows the parts, which may have moved, or have other meshes. */
  again() {
    const parts = this.parts();
    let changed = false;
    for (const [id, { mesh }] of this.laid) {
      if (this.decals[id]) continue;
      this.drop(id, mesh);
      changed = true;
    }
    Object.keys(this.decals).forEach((id, order) => {
      const decal = this.shown(id)!;
      const part = parts.get(decal.part);
      const shown = decal.on && !decal.waits && part?.mesh.visible;
      const key = shown ? JSON.stringify([decal, part.group.matrix.elements, part.key]) : "";
      const known = this.laid.get(id);
      if ((known?.key ?? "") === key) return;
      changed = true;
      if (known) this.drop(id, known.mesh);
      if (!shown) return;
      const mesh = this.made(decal, part);
      mesh.renderOrder = 2 + order / 1000;
      this.group.add(mesh);
      this.laid.set(id, { key, mesh });
    });
    if (changed) this.redraw();
  }

  private made(decal: Decal, part: StagedPart): Laid["mesh"] {
    const { matrix } = part.group;
    const map = this.picture(decal);
    const material = new MeshStandardMaterial({
      ...looks(decal, map),
      transparent: true,
      depthWrite: false,
      polygonOffset: true,
      polygonOffsetFactor: -4,
      polygonOffsetUnits: -4,
    });
    material.onBeforeCompile = onlyWithin;
    const body = new Mesh(part.source.surface);
    body.matrixWorld.copy(matrix);
    const geometry = cut(decal, matrix, body);
    const mesh = new Mesh(geometry, material);
    mesh.raycast = () => undefined;
    return mesh;
  }

  private picture(decal: Decal): Texture {
    const key = `${decal.picture}${decal.mirrored}`;
    let found = this.pictures.get(key);
    if (!found) {
      found = this.loader.load(`/api/blobs/${decal.picture}/shown?color=true`, this.redraw);
      found.colorSpace = SRGBColorSpace;
      found.anisotropy = 8;
      if (decal.mirrored) found.matrix.set(-1, 0, 1, 0, 1, 0, 0, 0, 1);
      found.matrixAutoUpdate = false;
      this.pictures.set(key, found);
    }
    return found;
  }

  private drop(id: string, mesh: Laid["mesh"]) {
    this.group.remove(mesh);
    mesh.geometry.dispose();
    mesh.material.dispose();
    this.laid.delete(id);
  }

  dispose() {
    this.frame.dispose();
    for (const [id, { mesh }] of this.laid) this.drop(id, mesh);
    for (const picture of this.pictures.values()) picture.dispose();
  }
}

/** Leaves out what lies beyond the picture's edge. */
function onlyWithin(shader: { fragmentShader: string }) {
  shader.fragmentShader = shader.fragmentShader.replace(
    "#include <map_fragment>",
    "if (any(lessThan(vMapUv, vec2(0.0))) || any(greaterThan(vMapUv, vec2(1.0)))) discard;\n#include <map_fragment>",
  );
}

/** How a decal is made is hinted at; the traced picture shows it as it is. */
function looks(decal: Decal, map: Texture): MeshStandardMaterialParameters {
  const { kind, roughness, filled } = decal.finish;
  const opacity = decal.opacity;
  if (kind === "foil") return { map, opacity, metalness: 1, roughness: roughness ?? 0.2 };
  if (kind === "glow") return { map, opacity, emissive: 0xffffff, emissiveMap: map, roughness: 0.5 };
  if (kind === "etched")
    return { map, opacity: 0.25 * opacity, roughness: roughness ?? 0.6, color: 0xffffff };
  const isRelief = kind === "engraved" || kind === "embossed";
  if (isRelief && !filled) return { map, color: 0x000000, opacity: 0.35, roughness: 0.6 };
  return { map, opacity, roughness: roughness ?? 0.5 };
}
