import type { Model } from "../api/client";
import { loadMesh, type PartMesh } from "./meshblock";
import type { StagedPart } from "./stagedPart";

/** Triangles, all occurrences counted, above which coarse stand-ins come first. */
const LARGE = 1_000_000;
/** Triangles that are drawn while the view moves, with and without a graphics card. */
const MOVING = { card: 12_000_000, software: 400_000 };

/** How finely the parts of a large assembly are drawn: coarse until the fine meshes are there, and while it moves. */
export class Detail {
  /** Bytes of geometry that a desk may hold. */
  static readonly MOST = 768 * 2 ** 20;
  readonly coarseFirst: boolean;
  private readonly total: number;
  private readonly rough = new Map<string, PartMesh>();
  private roughened = false;
  private tell?: (part: StagedPart) => void;

  constructor(model: Model) {
    this.total = model.nodes.reduce(
      (sum, node) => sum + (node.definition ? model.definitions[node.definition]!.triangles : 0),
      0,
    );
    this.coarseFirst = this.total > LARGE;
  }

  /** Fetches the fine meshes, the most seen first, as far as the memory goes; tells of each part that has got its. */
  async refine(parts: ReadonlyMap<string, StagedPart>, tell: (part: StagedPart) => void) {
    this.tell = tell;
    const by = new Map<string, StagedPart[]>();
    for (const part of parts.values()) by.set(part.key, [...(by.get(part.key) ?? []), part]);
    const order = [...by].sort((a, b) => weight(b[1]) - weight(a[1]));
    for (const [key, users] of order) {
      this.rough.set(key, await loadMesh(key, "coarse"));
      if (this.used(parts) > Detail.MOST) return;
      const fine = await loadMesh(key);
      for (const part of users) {
        if (part.key !== key || part.source === fine || part.form) continue;
        part.source = fine;
        if (!this.roughened) tell(part);
      }
    }
  }

  used(parts: ReadonlyMap<string, StagedPart>): number {
    const meshes = new Set([...[...parts.values()].map((part) => part.source), ...this.rough.values()]);
    let sum = 0;
    for (const mesh of meshes) sum += mesh.bytes;
    return sum;
  }

  /** Draws stand-ins while the view moves, when the fine meshes would be too many. Returns whether it does. */
  roughen(parts: ReadonlyMap<string, StagedPart>, software: boolean): boolean {
    if (this.total <= (software ? MOVING.software : MOVING.card) || this.rough.size === 0) return false;
    if (!this.roughened)
      for (const part of parts.values()) {
        const rough = this.rough.get(part.key);
        if (!rough || part.resting) continue;
        part.resting = { source: part.source, geometry: part.mesh.geometry, material: part.mesh.material };
        part.mesh.geometry = rough.surface;
        if (Array.isArray(part.mesh.material)) part.mesh.material = part.mesh.material[0]!;
      }
    this.roughened = true;
    return true;
  }

  /** Back to what each part had before it moved; whether it did. */
  smoothen(parts: ReadonlyMap<string, StagedPart>): boolean {
    if (!this.roughened) return false;
    this.roughened = false;
    for (const part of parts.values()) {
      const before = part.resting;
      part.resting = undefined;
      if (!before) continue;
      if (before.source !== part.source) this.tell?.(part);
      else if (part.mesh.geometry === this.rough.get(part.key)?.surface) {
        // What it was given meanwhile has its place already.
        part.mesh.geometry = before.geometry;
        part.mesh.material = before.material;
      }
    }
    return true;
  }
}

/** How much of the picture a definition may fill: its size, times how often it is there. */
function weight(parts: StagedPart[]): number {
  const sphere = parts[0]!.source.surface.boundingSphere;
  return parts.length * (sphere?.radius ?? 0) ** 2;
}
