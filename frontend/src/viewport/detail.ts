import type { Model } from "../api/client";
import { loadMesh, type PartMesh } from "./meshblock";
import type { StagedPart } from "./stagedPart";

/** Triangles, all occurrences counted, above which coarse stand-ins come first. */
const LARGE = 1_000_000;
/** Triangles that are drawn at most, with and without a graphics card. */
const MOVING = { card: 12_000_000, software: 400_000 };
const RESTING = { card: 24_000_000, software: 1_500_000 };
/** Pixels across, below which a stand-in looks the same. */
const TINY = 8;

/**
 * How finely the parts of a large assembly are drawn: coarse until the fine meshes are there, and where they look small or
 * would be too many.
 */
export class Detail {
  /** Bytes of geometry that a desk may hold. */
  static readonly MOST = 768 * 2 ** 20;
  readonly coarseFirst: boolean;
  private readonly rough = new Map<string, PartMesh>();
  private tell?: (part: StagedPart) => void;

  constructor(model: Model) {
    const total = model.nodes.reduce(
      (sum, node) => sum + (node.definition ? model.definitions[node.definition]!.triangles : 0),
      0,
    );
    this.coarseFirst = total > LARGE;
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
        if (!part.resting) tell(part);
      }
    }
  }

  used(parts: ReadonlyMap<string, StagedPart>): number {
    const meshes = new Set([...[...parts.values()].map((part) => part.source), ...this.rough.values()]);
    let sum = 0;
    for (const mesh of meshes) sum += mesh.bytes;
    return sum;
  }

  /** Whether there is anything to choose from. */
  get hasStandIns(): boolean {
    return this.rough.size > 0;
  }

  /** How many triangles may be drawn. */
  static budget(moving: boolean, software: boolean): number {
    return (moving ? MOVING : RESTING)[software ? "software" : "card"];
  }

  /**
   * Draws as stand-ins what looks small, and what looks smallest of what is beyond so many triangles. `across` tells how
   * many pixels a part takes. Whether anything is drawn otherwise than before.
   */
  fit(parts: Iterable<StagedPart>, across: (part: StagedPart) => number, most: number): boolean {
    const sized = [...parts]
      .filter((part) => part.mesh.visible && this.rough.has(part.key))
      .map((part) => ({ part, size: across(part) }))
      .sort((a, b) => b.size - a.size);
    let [left, changed] = [most, false];
    for (const { part, size } of sized) {
      const rough = this.rough.get(part.key)!;
      const fine = size >= TINY && part.source.triangles <= left;
      left -= fine ? part.source.triangles : rough.triangles;
      if (fine ? this.restore(part) : coarsen(part, rough)) changed = true;
    }
    return changed;
  }

  private restore(part: StagedPart): boolean {
    const before = part.resting;
    if (!before) return false;
    part.resting = undefined;
    if (before.source !== part.source) this.tell?.(part);
    else {
      part.mesh.geometry = before.geometry;
      putOn(part, before.material);
    }
    return true;
  }
}

function coarsen(part: StagedPart, rough: PartMesh): boolean {
  if (part.resting || part.source === rough) return false;
  const material = part.worn ?? part.mesh.material;
  part.resting = { source: part.source, geometry: part.mesh.geometry, material };
  part.mesh.geometry = rough.surface;
  putOn(part, Array.isArray(material) ? material[0]! : material);
  return true;
}

/** What a part wears, also while it is drawn faint. */
function putOn(part: StagedPart, material: StagedPart["mesh"]["material"]) {
  if (part.worn) part.worn = material;
  else part.mesh.material = material;
}

/** How much of the picture a definition may fill: its size, times how often it is there. */
function weight(parts: StagedPart[]): number {
  const sphere = parts[0]!.source.surface.boundingSphere;
  return parts.length * (sphere?.radius ?? 0) ** 2;
}
