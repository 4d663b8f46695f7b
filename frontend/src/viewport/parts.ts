import { Group, type Material, Matrix4, Mesh, MeshBasicMaterial, type MeshPhysicalMaterial } from "three";
import type { Appearance, Model, Node, Standing } from "../api/client";
import { Detail } from "./detail";
import { finishKey } from "./finish";
import { isClear } from "./marks";
import { toMaterial } from "./materials";
import { loadMesh, type MeshForm, type PartMesh } from "./meshblock";
import type { StagedPart } from "./stagedPart";
import { disposeOwn, formFor, wear, wearsOf } from "./wear";

/**
 * What of the picture may be another: who is in it, what hides what, what is worn, the mesh of something, or only what a
 * surface shows.
 */
export type Change = "shown" | "hiding" | "worn" | "mesh" | "picture";

/** The parts of the shaded picture: their meshes and places, who is visible and what everybody wears. */
export class Parts {
  readonly by = new Map<string, StagedPart>();
  private readonly materials = new Map<string, { appearance: Appearance; material: MeshPhysicalMaterial }>();
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
    const changed = this.forget(all);
    const before = this.standing;
    this.standing = standing;
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
  private forget(all: Record<string, Appearance>): Set<string> {
    const changed = new Set<string>();
    for (const [id, { appearance, material }] of this.materials)
      if (all[id] !== appearance) {
        changed.add(id);
        material.dispose();
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
    const material = toMaterial(appearance, () => this.changed("picture"));
    material.envMap = null;
    material.customProgramCacheKey = finishKey;
    this.materials.set(id, { appearance, material });
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

  /** Draws stand-ins while the view moves; whether it does. */
  roughen(software: boolean): boolean {
    return this.detail?.roughen(this.by, software) ?? false;
  }

  /** Back to what was drawn before the view moved; whether that is something else. */
  smoothen(): boolean {
    return this.detail?.smoothen(this.by) ?? false;
  }

  dispose() {
    this.disposed = true;
  }
}
