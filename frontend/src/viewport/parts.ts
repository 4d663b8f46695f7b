import {
  Frustum,
  Group,
  type Material,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  type MeshPhysicalMaterial,
  OrthographicCamera,
  type PerspectiveCamera,
  Sphere,
} from "three";
import { shade } from "../api/appearance";
import type { Appearance, Model, Node, Shaded, Standing } from "../api/client";
import { Detail } from "./detail";
import { finishKey } from "./finish";
import { isClear } from "./marks";
import { toMaterial } from "./materials";
import { loadMesh, type MeshForm, type PartMesh } from "./meshblock";
import { ballAround } from "./picking";
import { Shades } from "./shades";
import type { StagedPart } from "./stagedPart";
import { disposeOwn, formFor, wear, wearsOf } from "./wear";

/**
 * What of the picture may be another: who is in it, what hides what, what is worn, the mesh of something, or only what a
 * surface shows.
 */
export type Change = "shown" | "hiding" | "worn" | "mesh" | "picture";

interface Made {
  appearance: Appearance;
  shown: Shaded;
  material: MeshPhysicalMaterial;
}

/** The parts of the shaded picture: their meshes and places, who is visible and what everybody wears. */
export class Parts {
  readonly by = new Map<string, StagedPart>();
  private readonly materials = new Map<string, Made>();
  private readonly shades = new Shades(shade, () => {
    if (this.standing && !this.disposed) this.dress(this.standing, this.previews);
  });
  private previews: Record<string, Appearance> = {};
  private readonly faint = new MeshBasicMaterial({
    color: "#8f8f8d",
    transparent: true,
    opacity: 0.12,
    depthWrite: false,
  });
  private faded?: ReadonlySet<string>;
  private detail?: Detail;
  private standing?: Standing;
  private disposed = false;
  /** Counts the arrangements that were asked for. */
  private loading = 0;

  constructor(private readonly changed: (change: Change) => void) {}

  /**
   * Loads what is new of an arrangement, moves what was moved, drops what is gone. Resolves when there is something of
   * everything: of a large assembly first coarse stand-ins, whose fine meshes follow.
   */
  async load(model: Model): Promise<void> {
    const turn = ++this.loading;
    const nodes = model.nodes.filter((node) => node.definition);
    const detail = new Detail(model);
    const sources = await Promise.all(
      nodes.map((node) =>
        loadMesh(model.definitions[node.definition!]!.mesh, detail.coarseFirst ? "coarse" : "fine"),
      ),
    );
    // Another arrangement was asked for meanwhile, by an undo for one: this one is no longer wanted.
    if (this.disposed || turn !== this.loading) return;
    this.detail = detail;
    const gone = new Set(this.by.keys());
    nodes.forEach((node, index) => {
      gone.delete(node.uid);
      this.stage(node, model.definitions[node.definition!]!.mesh, sources[index]!);
    });
    for (const uid of gone) {
      disposeOwn(this.by.get(uid)!);
      this.by.delete(uid);
    }
    this.changed("shown");
    if (detail.coarseFirst) detail.refine(this.by, (part) => this.renew(part)).catch(() => undefined);
  }

  /** A part got its fine mesh. */
  private renew(part: StagedPart) {
    if (this.disposed || !this.standing) return;
    const { worn, appearances } = this.standing;
    const own = worn[part.uid];
    if (own) wear(part, own.appearance, own.faces, (id) => this.material(id, appearances));
    this.fade(part);
    this.changed("mesh");
  }

  /** Bytes of the geometry that is loaded, and how many it may be. */
  get memory(): { used: number; most: number } {
    return { used: this.detail?.used(this.by) ?? 0, most: Detail.MOST };
  }

  private stage(node: Node, key: string, source: PartMesh) {
    const known = this.by.get(node.uid);
    // A part that has its fine mesh already keeps it.
    if (known?.key === key && known.source.triangles > source.triangles) source = known.source;
    const matrix = new Matrix4().set(...(node.world as Parameters<Matrix4["set"]>));
    if (known?.key === key) {
      known.group.matrix.copy(matrix);
      known.group.matrixWorldNeedsUpdate = true;
      return;
    }
    if (known) disposeOwn(known);
    const mesh = new Mesh(source.surface);
    const group = new Group();
    group.matrixAutoUpdate = false;
    group.matrix.copy(matrix);
    mesh.userData.uid = node.uid;
    mesh.visible = false;
    group.add(mesh);
    this.by.set(node.uid, { uid: node.uid, model: node.model, key, group, mesh, source });
  }

  /** Shows what the standing says: who is visible and what everybody wears. */
  dress(standing: Standing, previews: Record<string, Appearance>) {
    const all = { ...standing.appearances, ...previews };
    const before = this.standing;
    this.standing = standing;
    this.previews = previews;
    const changed = this.forget(all, standing);
    let change: Change = "worn";
    for (const part of this.by.values()) {
      const worn = standing.worn[part.uid];
      const shown = worn !== undefined && standing.scene.states[part.uid] === undefined;
      if (part.mesh.visible !== shown) change = "shown";
      part.mesh.visible = shown;
      if (
        worn &&
        worn === before?.worn[part.uid] &&
        part.dressed &&
        !wearsOf(worn).some((id) => changed.has(id))
      )
        continue;
      part.dressed = true;
      const clear = isClear(part);
      part.worn = undefined;
      if (worn) wear(part, worn.appearance, worn.faces, (id) => this.material(id, all));
      if (worn) this.lay(part, formFor(worn, all));
      this.fade(part);
      if (clear !== isClear(part) && change === "worn") change = "hiding";
    }
    this.changed(change);
  }

  /** Drops the materials of appearances that are not as they were, or gone; which those are. */
  private forget(all: Record<string, Appearance>, standing: Standing): Set<string> {
    const changed = new Set<string>();
    for (const [id, made] of this.materials) {
      const now = all[id];
      const same = now && now.textures === made.appearance.textures;
      if (same && this.shades.of(now, standing) === made.shown) {
        made.appearance = now;
        continue;
      }
      changed.add(id);
      made.material.dispose();
      this.materials.delete(id);
    }
    return changed;
  }

  /** Fetches the mesh with coordinates in mm for a part that wears pictures sized so, and the plain one afterwards. */
  private lay(part: StagedPart, form: MeshForm | undefined) {
    if (form === part.form) return;
    part.form = form;
    const { key } = part;
    loadMesh(key, form).then(
      (mesh) => {
        if (this.disposed || part.key !== key || part.form !== form) return;
        part.source = mesh;
        this.renew(part);
      },
      () => undefined,
    );
  }

  private material(id: string, all: Record<string, Appearance>): MeshPhysicalMaterial {
    const known = this.materials.get(id);
    if (known) return known.material;
    const appearance = all[id]!;
    const shown = this.shades.of(appearance, this.standing!);
    const material = toMaterial(appearance, shown, () => this.changed("picture"));
    material.envMap = null;
    material.customProgramCacheKey = finishKey;
    this.materials.set(id, { appearance, shown, material });
    return material;
  }

  /** Draws all but some parts faint, or none; whether that may be another picture than before. */
  fadeBut(uids: ReadonlySet<string> | undefined): boolean {
    const before = this.faded;
    this.faded = uids;
    if (!before && !uids) return false;
    for (const part of this.by.values()) this.fade(part);
    return true;
  }

  /** Draws a part faint when others stand out, and as it is otherwise. */
  private fade(part: StagedPart) {
    const faint = this.faded !== undefined && !this.faded.has(part.uid);
    if (faint && part.mesh.material !== this.faint) {
      part.worn = part.mesh.material;
      part.mesh.material = this.faint;
    } else if (!faint && part.worn) {
      part.mesh.material = part.worn;
      part.worn = undefined;
    }
  }

  /** Whether what is drawn with a material may be drawn together: clear surfaces are drawn back to front. */
  crowds(material: Material): boolean {
    return !material.transparent || material === this.faint;
  }

  /** The tone curve is another. */
  compileAnew() {
    for (const { material } of this.materials.values()) material.needsUpdate = true;
  }

  /** Whether how finely parts are drawn depends on the view. */
  get hasStandIns(): boolean {
    return this.detail?.hasStandIns ?? false;
  }

  /**
   * Chooses what is drawn as a coarse stand-in, as seen through a camera on a picture of so many pixels in height. What is
   * out of the picture counts as small. Whether anything is drawn otherwise.
   */
  fit(camera: PerspectiveCamera | OrthographicCamera, height: number, moving: boolean, software: boolean) {
    if (!this.detail || !this.hasStandIns) return false;
    const through = new Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
    const seen = new Frustum().setFromProjectionMatrix(through);
    const ball = new Sphere();
    const scale = camera.projectionMatrix.elements[5]! * height;
    const across = (part: StagedPart) => {
      if (!seen.intersectsSphere(ballAround(part, ball))) return 0;
      if (camera instanceof OrthographicCamera) return ball.radius * scale;
      const distance = ball.center.distanceTo(camera.position);
      return (ball.radius * scale) / Math.max(distance - ball.radius, camera.near);
    };
    return this.detail.fit(this.by.values(), across, Detail.budget(moving, software));
  }

  dispose() {
    this.disposed = true;
  }
}
