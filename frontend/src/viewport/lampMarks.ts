import {
  BufferGeometry,
  Float32BufferAttribute,
  Group,
  LineBasicMaterial,
  LineSegments,
  Vector3,
} from "three";
import type { Lighting } from "../api/client";
import { type StandingLamp, stands } from "../state/lighting";

const RING = 32;

/** Outlines of lamps where they stand, and a line to what the selected one is aimed at. */
export class LampMarks {
  readonly group = new Group();
  private readonly selected = new LineBasicMaterial({
    color: "#e4931b",
    depthTest: false,
    transparent: true,
  });
  private readonly others = new LineBasicMaterial({
    color: "#e4931b",
    depthTest: false,
    transparent: true,
    opacity: 0.45,
  });

  get any(): boolean {
    return this.group.children.length > 0;
  }

  show(lamps: Lighting["lamps"] | undefined, light: string) {
    this.clear();
    for (const [id, lamp] of Object.entries(lamps ?? {})) {
      if (!stands(lamp) || (!lamp.on && id !== light)) continue;
      const points = outlineOf(lamp);
      if (id === light) points.push(...lamp.position, ...lamp.target);
      const lines = new BufferGeometry();
      lines.setAttribute("position", new Float32BufferAttribute(points, 3));
      const mark = new LineSegments(lines, id === light ? this.selected : this.others);
      mark.renderOrder = 8;
      mark.frustumCulled = false;
      mark.raycast = () => undefined;
      this.group.add(mark);
    }
  }

  private clear() {
    for (const mark of this.group.children as LineSegments[]) mark.geometry.dispose();
    this.group.clear();
  }

  dispose() {
    this.clear();
    this.selected.dispose();
    this.others.dispose();
  }
}

/** Ends of line segments round a lamp, mm. */
export function outlineOf(lamp: StandingLamp): number[] {
  const at = new Vector3(...lamp.position);
  const forward = new Vector3(...lamp.target).sub(at).normalize();
  const side = new Vector3(0, 0, 1).cross(forward);
  if (side.lengthSq() < 1e-12) side.set(1, 0, 0);
  side.normalize();
  const up = forward.clone().cross(side);
  const corner = (x: number, y: number) => at.clone().addScaledVector(side, x).addScaledVector(up, y);
  const [across, high] = halfSize(lamp);
  const isRound =
    ["spot", "point", "photometric"].includes(lamp.kind) || (lamp.kind === "panel" && lamp.round);
  const ring = isRound
    ? Array.from({ length: RING }, (_, k) => {
        const turn = (2 * Math.PI * k) / RING;
        return corner(Math.cos(turn) * across, Math.sin(turn) * high);
      })
    : [corner(-across, -high), corner(across, -high), corner(across, high), corner(-across, high)];
  return ring.flatMap((point, k) => [...point.toArray(), ...ring[(k + 1) % ring.length]!.toArray()]);
}

/** Half of a lamp's width and height, mm. */
function halfSize(lamp: StandingLamp): [number, number] {
  switch (lamp.kind) {
    case "panel":
    case "card":
      return [lamp.width / 2, lamp.height / 2];
    case "tube":
      return [lamp.length / 2, lamp.diameter / 2];
    case "field":
      return [(lamp.columns * lamp.spacing) / 2, (lamp.rows * lamp.spacing) / 2];
    default:
      return [lamp.diameter / 2, lamp.diameter / 2];
  }
}
