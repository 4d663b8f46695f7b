import {
  type OrthographicCamera,
  type PerspectiveCamera,
  Plane,
  type Ray,
  Raycaster,
  Vector2,
  Vector3,
} from "three";
import type { FaceOf } from "../state/giving";
import type { FloorPlane } from "../state/lighting";
import { faceNormal, type Hit, hits, hitsBetween } from "./picking";
import type { StagedPart } from "./stagedPart";

interface Seen {
  parts: () => ReadonlyMap<string, StagedPart>;
  /** None before there is a view. */
  camera: () => PerspectiveCamera | OrthographicCamera | undefined;
  floor: () => FloorPlane;
}

/** Tells what lies under a position of the picture, given in -1..1. */
export class Aim {
  constructor(private readonly seen: Seen) {}

  /** The part, face and point that is nearest, if any. */
  pick(x: number, y: number): Hit | undefined {
    return this.picked(x, y, false)[0];
  }

  /** Everything, front to back. */
  pickAll(x: number, y: number): Hit[] {
    return this.picked(x, y, true);
  }

  private picked(x: number, y: number, all: boolean): Hit[] {
    const camera = this.seen.camera();
    return camera ? hits(this.seen.parts().values(), camera, x, y, all) : [];
  }

  ray(x: number, y: number): Ray | undefined {
    const camera = this.seen.camera();
    if (!camera) return undefined;
    const caster = new Raycaster();
    caster.setFromCamera(new Vector2(x, y), camera);
    return caster.ray;
  }

  /** The point of the floor, if it is seen there, and the floor's normal. */
  pickFloor(x: number, y: number): { point: Vector3; normal: Vector3 } | undefined {
    const { up, height } = this.seen.floor();
    const normal = new Vector3(...up);
    const point = this.ray(x, y)?.intersectPlane(new Plane(normal, -height), new Vector3());
    return point ? { point, normal } : undefined;
  }

  /** The part that stands between two points, mm, by uid; what lies at their ends does not count. */
  blocked(from: Vector3, to: Vector3): string | undefined {
    return hitsBetween(this.seen.parts().values(), from, to);
  }

  /** Outward normal of a face, in the review's frame. */
  faceNormal(face?: FaceOf): Vector3 | undefined {
    return faceNormal(this.seen.parts(), face);
  }
}
