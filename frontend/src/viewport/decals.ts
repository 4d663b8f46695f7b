import {
  BufferGeometry,
  type Camera,
  DoubleSide,
  Group,
  Mesh,
  MeshStandardMaterial,
  type MeshStandardMaterialParameters,
  type Ray,
  type Texture,
  TextureLoader,
  type Vector2,
  type Vector3,
} from "three";
import type { Decal, Model, Schemas, Standing } from "../api/client";
import { DecalFrame } from "./decalFrame";
import { type Grip, gripAt, pulled, rayIn, type Snapped, slid, spotOn, turnedTo } from "./decalGrips";
import { cut, draggedTo, laidOut, onlyFaces, onlyWithin, readied, shownPicture } from "./decalShape";
import { cutSheet } from "./decalSheet";
import { loadMesh } from "./meshblock";
import type { Hit } from "./picking";
import type { StagedPart } from "./stagedPart";

type Piece = Mesh<BufferGeometry, MeshStandardMaterial>;

interface Laid {
  key: string;
  /** One on each part that it lies on. */
  pieces: Piece[];
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
  private model?: Model;
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

  /** Learns what faces the parts have. */
  know(model: Model) {
    this.model = model;
  }

  /** The topmost decal that lies at a spot of a part. */
  at(hit: Hit): { id: string; decal: Decal } | undefined {
    const lies = Object.entries(this.decals).filter(([, decal]) => {
      const part = this.parts().get(decal.part);
      const here = decal.part === hit.uid || decal.also.includes(hit.uid);
      if (!part || !here || !decal.on || decal.waits) return false;
      if (decal.part === hit.uid && decal.faces.length && !this.keptTo(decal).includes(hit.face))
        return false;
      const spot = laidOut(decal, hit.point.clone().applyMatrix4(part.group.matrix.clone().invert()));
      const [x, y, away] = spot;
      return (
        Math.abs(x) <= decal.width / 2 && Math.abs(y) <= decal.height / 2 && Math.abs(away) <= decal.depth
      );
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
    for (const id of this.laid.keys()) {
      if (this.decals[id]) continue;
      this.drop(id);
      changed = true;
    }
    Object.keys(this.decals).forEach((id, order) => {
      const decal = this.shown(id)!;
      const part = parts.get(decal.part);
      const shown =
        part && decal.on && !decal.waits && (decal.finish.kind !== "dead_front" || decal.finish.lit);
      const also = decal.sheet ? [] : decal.also;
      const others = also.filter((uid) => uid !== decal.part).map((uid) => parts.get(uid));
      const bodies = shown ? [part, ...others].filter((one) => one?.mesh.visible).map((one) => one!) : [];
      const places = bodies.map((one) => [one.uid, one.group.matrix.elements, one.key]);
      const key = bodies.length ? JSON.stringify([decal, part!.group.matrix.elements, places]) : "";
      if ((this.laid.get(id)?.key ?? "") === key) return;
      changed = true;
      this.drop(id);
      if (!bodies.length) return;
      const pieces = bodies.map((body) => this.made(decal, part!, body));
      for (const piece of pieces) piece.renderOrder = 2 + order / 1000;
      this.group.add(...pieces);
      this.laid.set(id, { key, pieces });
    });
    if (changed) this.redraw();
  }

  /** A decal on its part, or on another that it runs across. */
  private made(decal: Decal, part: StagedPart, body: StagedPart): Piece {
    const map = this.picture(decal);
    const material = new MeshStandardMaterial({
      ...looks(decal, map),
      // What lies on the far side of glass is seen through it.
      side: DoubleSide,
      forceSinglePass: true,
      transparent: true,
      depthWrite: false,
      polygonOffset: true,
      polygonOffsetFactor: -4,
      polygonOffsetUnits: -4,
    });
    material.onBeforeCompile = onlyWithin;
    const { sheet } = decal;
    if (sheet) {
      const mesh: Piece = new Mesh(new BufferGeometry(), material);
      mesh.raycast = () => undefined;
      this.layAlong(mesh, decal, part);
      return mesh;
    }
    const { surface, faceRanges } = body.source;
    const kept = body === part && decal.faces.length > 0;
    const source = kept ? onlyFaces(surface, faceRanges, this.keptTo(decal)) : surface;
    const solid = new Mesh(source);
    solid.matrixWorld.copy(body.group.matrix);
    const mesh = new Mesh(cut(decal, part.group.matrix, solid), material);
    mesh.raycast = () => undefined;
    return mesh;
  }

  /** Fills a decal that follows its face, once the face's sheet is there. */
  private async layAlong(mesh: Piece, decal: Decal, part: StagedPart) {
    const [face] = this.keptTo(decal);
    if (face === undefined) return;
    const unrolled = await loadMesh(part.key, "unrolled").catch(() => undefined);
    if (!unrolled || mesh.parent !== this.group) return;
    mesh.geometry = cutSheet(decal, face, part.group.matrix, unrolled);
    this.redraw();
  }

  /** The faces of its part that a decal is kept to. */
  private keptTo(decal: Decal): number[] {
    const definition = this.model?.nodes.find((node) => node.uid === decal.part)?.definition;
    const known = (definition && this.model?.definitions[definition]?.faces) || [];
    const kept = decal.sheet ? [decal.sheet.face] : decal.faces;
    return kept.map((signature) => known.indexOf(signature)).filter((face) => face >= 0);
  }

  private picture(decal: Decal): Texture {
    const key = `${decal.picture}${decal.mirrored}`;
    let found = this.pictures.get(key);
    if (!found) {
      found = readied(this.loader.load(shownPicture(decal), this.redraw), decal);
      found.anisotropy = 8;
      this.pictures.set(key, found);
    }
    return found;
  }

  private drop(id: string) {
    for (const piece of this.laid.get(id)?.pieces ?? []) {
      this.group.remove(piece);
      piece.geometry.dispose();
      piece.material.dispose();
    }
    this.laid.delete(id);
  }

  dispose() {
    this.frame.dispose();
    for (const id of [...this.laid.keys()]) this.drop(id);
    for (const picture of this.pictures.values()) picture.dispose();
  }
}

/** How a decal is made is hinted at; the traced picture shows it as it is. */
function looks(decal: Decal, map: Texture): MeshStandardMaterialParameters {
  const { kind, roughness, filled } = decal.finish;
  const opacity = decal.opacity;
  if (kind === "foil") return { map, opacity, metalness: 1, roughness: roughness ?? 0.2 };
  if (kind === "dead_front")
    return { map, opacity, color: 0x000000, emissive: 0xffffff, emissiveMap: map, roughness: 1 };
  if (kind === "glow") return { map, opacity, emissive: 0xffffff, emissiveMap: map, roughness: 0.5 };
  if (kind === "etched")
    return { map, opacity: 0.25 * opacity, roughness: roughness ?? 0.6, color: 0xffffff };
  const isRelief = kind === "engraved" || kind === "embossed";
  if (isRelief && !filled) return { map, color: 0x000000, opacity: 0.35, roughness: 0.6 };
  return { map, opacity, roughness: roughness ?? 0.5 };
}
