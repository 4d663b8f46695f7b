import {
  type BufferGeometry,
  Euler,
  Float32BufferAttribute,
  Group,
  Matrix4,
  Mesh,
  MeshStandardMaterial,
  SRGBColorSpace,
  type Texture,
  TextureLoader,
  Vector3,
} from "three";
import { DecalGeometry } from "three/examples/jsm/geometries/DecalGeometry.js";
import type { Decal, Standing } from "../api/client";
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

  constructor(private readonly arrived: () => void) {}

  /** Follows the scene; whether the picture is another. */
  follow(decals: Standing["scene"]["decals"], parts: ReadonlyMap<string, StagedPart>): boolean {
    this.decals = decals;
    return this.again(parts);
  }

  /** Follows the parts, which may have moved, or have other meshes. */
  again(parts: ReadonlyMap<string, StagedPart>): boolean {
    let changed = false;
    for (const [id, { mesh }] of this.laid) {
      if (this.decals[id]) continue;
      this.drop(id, mesh);
      changed = true;
    }
    Object.entries(this.decals).forEach(([id, decal], order) => {
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
    return changed;
  }

  private made(decal: Decal, part: StagedPart): Laid["mesh"] {
    const { matrix } = part.group;
    const map = this.picture(decal);
    const material = new MeshStandardMaterial({
      map,
      transparent: true,
      opacity: decal.opacity,
      roughness: 0.5,
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
      found = this.loader.load(`/api/blobs/${decal.picture}/shown?color=true`, this.arrived);
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
    for (const [id, { mesh }] of this.laid) this.drop(id, mesh);
    for (const picture of this.pictures.values()) picture.dispose();
  }
}

/** The triangles of a part within a decal's box that face its front, in the review's frame. */
function cut(decal: Decal, matrix: Matrix4, body: Mesh): BufferGeometry {
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
  const place = new Matrix4().makeBasis(across, along, out).setPosition(...decal.center);
  const frame = matrix.clone().multiply(place);
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
