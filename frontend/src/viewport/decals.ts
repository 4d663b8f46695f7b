import {
  BufferGeometry,
  Euler,
  Float32BufferAttribute,
  Group,
  LineBasicMaterial,
  LineLoop,
  Matrix4,
  Mesh,
  MeshStandardMaterial,
  type MeshStandardMaterialParameters,
  SRGBColorSpace,
  type Texture,
  TextureLoader,
  Vector3,
} from "three";
import { DecalGeometry } from "three/examples/jsm/geometries/DecalGeometry.js";
import type { Decal, Standing } from "../api/client";
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
  private readonly frame = new LineLoop(
    new BufferGeometry().setFromPoints([
      new Vector3(-0.5, -0.5, 0),
      new Vector3(0.5, -0.5, 0),
      new Vector3(0.5, 0.5, 0),
      new Vector3(-0.5, 0.5, 0),
    ]),
    new LineBasicMaterial({ color: 0x0d6e74, depthTest: false, toneMapped: false }),
  );

  constructor(
    private readonly parts: () => ReadonlyMap<string, StagedPart>,
    private readonly redraw: () => void,
  ) {
    this.frame.visible = false;
    this.frame.matrixAutoUpdate = false;
    this.frame.renderOrder = 10;
    this.frame.raycast = () => undefined;
    this.group.add(this.frame);
  }

  /** Follows the scene. */
  follow(decals: Standing["scene"]["decals"]) {
    this.decals = decals;
    this.again();
  }

  /** The topmost decal that lies at a spot of a part. */
  at(hit: Hit): { id: string; decal: Decal } | undefined {
    const part = this.parts().get(hit.uid);
    if (!part) return undefined;
    const lies = Object.entries(this.decals).filter(([, decal]) => {
      if (!decal.on || decal.part !== hit.uid) return false;
      const local = hit.point.clone().applyMatrix4(frameOf(decal, part.group.matrix).invert());
      return Math.abs(local.x) <= decal.width / 2 && Math.abs(local.y) <= decal.height / 2;
    });
    const [id, decal] = lies.at(-1) ?? [];
    return id && decal ? { id, decal } : undefined;
  }

  /** Frames the decal that is selected. */
  select(id: string | undefined) {
    const was = this.frame.visible;
    this.selected = id;
    this.enframe();
    if (was || this.frame.visible) this.redraw();
  }

  private enframe() {
    const decal = this.selected === undefined ? undefined : this.shown(this.selected);
    const part = decal && this.parts().get(decal.part);
    this.frame.visible = Boolean(part?.mesh.visible);
    if (!decal || !part) return;
    const size = new Vector3(decal.width, decal.height, 1);
    this.frame.matrix.copy(frameOf(decal, part.group.matrix)).scale(size);
  }

  /** Shows a decal where the pointer is, until the scene says where it lies; without an id, as the scene says. */
  drag(id: string | undefined, hit?: Hit) {
    const decal = id === undefined ? undefined : this.decals[id];
    const part = hit && this.parts().get(hit.uid);
    if (id !== undefined && !part) return;
    const from = decal && this.parts().get(decal.part);
    this.dragged = id && decal && part ? { id, decal: carried(decal, from, part, hit) } : undefined;
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
      const shown = decal.on && part?.mesh.visible;
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
    this.frame.geometry.dispose();
    this.frame.material.dispose();
    for (const [id, { mesh }] of this.laid) this.drop(id, mesh);
    for (const picture of this.pictures.values()) picture.dispose();
  }
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

/** From the decal's rectangle, in mm about its middle, into the review. */
function frameOf(decal: Decal, matrix: Matrix4): Matrix4 {
  const turn = (decal.turn * Math.PI) / 180;
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const side = new Vector3(...decal.right).normalize();
  const out = side
    .clone()
    .cross(new Vector3(...decal.up))
    .normalize();
  const up = out.clone().cross(side);
  const across = side.clone().multiplyScalar(c).addScaledVector(up, s);
  const along = up.multiplyScalar(c).addScaledVector(side, -s);
  return matrix.clone().multiply(new Matrix4().makeBasis(across, along, out).setPosition(...decal.center));
}

/** A decal at another spot, standing as it stood: what the core will say when it is let go. */
function carried(decal: Decal, from: StagedPart | undefined, to: StagedPart, hit: Hit): Decal {
  const up = new Vector3(...decal.up);
  if (from) up.transformDirection(from.group.matrix);
  const inverse = to.group.matrix.clone().invert();
  const out = hit.normal.clone().transformDirection(inverse);
  up.transformDirection(inverse).addScaledVector(out, -up.dot(out));
  if (up.lengthSq() < 1e-6) up.set(out.y, out.z, out.x).cross(out);
  up.normalize();
  const right = up.clone().cross(out);
  const center = hit.point.clone().applyMatrix4(inverse);
  return { ...decal, part: hit.uid, center: center.toArray(), right: right.toArray(), up: up.toArray() };
}

/** The triangles of a part within a decal's box that face its front, in the review's frame. */
function cut(decal: Decal, matrix: Matrix4, body: Mesh): BufferGeometry {
  const frame = frameOf(decal, matrix);
  const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()];
  frame.extractBasis(x, y, z);
  const size = new Vector3(decal.width * x.length(), decal.height * y.length(), 2 * decal.depth * z.length());
  const turned = new Matrix4().makeBasis(x.normalize(), y.normalize(), z.normalize());
  const whole = new DecalGeometry(
    body,
    new Vector3().setFromMatrixPosition(frame),
    new Euler().setFromRotationMatrix(turned),
    size,
  );
  const [at, normal, uv] = (["position", "normal", "uv"] as const).map((name) => whole.getAttribute(name));
  const kept: number[] = [];
  for (let corner = 0; corner + 2 < at!.count; corner += 3) {
    const facing = new Vector3().fromBufferAttribute(normal!, corner).dot(z);
    if (facing > 0) kept.push(corner, corner + 1, corner + 2);
  }
  for (const [name, values] of [
    ["position", at!],
    ["normal", normal!],
    ["uv", uv!],
  ] as const) {
    const width = values.itemSize;
    const flat = kept.flatMap((k) => Array.from({ length: width }, (_, j) => values.getComponent(k, j)));
    whole.setAttribute(name, new Float32BufferAttribute(flat, width));
  }
  return whole;
}
