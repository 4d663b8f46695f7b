import {
  BoxGeometry,
  CylinderGeometry,
  EdgesGeometry,
  LineBasicMaterial,
  LineSegments,
  type Object3D,
  PlaneGeometry,
} from "three";
import type { LayingKind } from "./laying";

const LINE = new LineBasicMaterial({ color: "#E4931B", depthTest: false, transparent: true, opacity: 0.9 });

/** A drawing of how pictures are laid, in the frame of the laying; `size` in mm. */
export function layingGuide(kind: LayingKind, size: number, radius: number): Object3D {
  const made =
    kind === "plane"
      ? new PlaneGeometry(size, size, 1, 1)
      : kind === "cylinder"
        ? new CylinderGeometry(radius, radius, size, 24, 1, true).rotateX(Math.PI / 2)
        : new BoxGeometry(size, size, size);
  const lines = new LineSegments(new EdgesGeometry(made, kind === "cylinder" ? 10 : 1), LINE);
  lines.renderOrder = 20;
  return lines;
}
