import {
  BufferGeometry,
  type Camera,
  CanvasTexture,
  Group,
  LineBasicMaterial,
  LineLoop,
  LineSegments,
  type Matrix4,
  Points,
  PointsMaterial,
  SRGBColorSpace,
  Vector2,
  Vector3,
} from "three";
import type { Decal } from "../api/client";
import { CORNERS, gripPoint, type Snapped } from "./decalGrips";
import { outlineOf, pointOn } from "./decalShape";

const INK = "#0d6e74";
const STOPPED = "#e4931b";
/** Pixels. */
const GRIP = 9;
/** Pixels: a decal that is smaller on the screen has no grips. */
const LEAST_SIDE = 14;

/** The frame round the decal that is selected, its grips, and the lines that it stops at while it is moved. */
export class DecalFrame {
  readonly group = new Group();
  private readonly outline = new LineLoop(new BufferGeometry(), lineOf(INK));
  private readonly corners = new Points(new BufferGeometry(), gripsOf("square"));
  private readonly knob = new Points(new BufferGeometry(), gripsOf("round"));
  private readonly stem = new LineSegments(new BufferGeometry(), lineOf(INK));
  private readonly stops = new LineSegments(new BufferGeometry(), lineOf(STOPPED));

  private locked = false;

  constructor() {
    this.group.visible = false;
    this.group.matrixAutoUpdate = false;
    const marks = [this.outline, this.stem, this.stops, this.corners, this.knob];
    marks.forEach((mark, k) => {
      mark.renderOrder = 10 + k;
      mark.frustumCulled = false;
      mark.raycast = () => undefined;
    });
    this.group.add(...marks);
  }

  get shown(): boolean {
    return this.group.visible;
  }

  /** Frames a decal on a part that is placed by a matrix; the lines are measured from where the decal lay. */
  show(decal: Decal | undefined, matrix: Matrix4 | undefined, lines: Snapped["lines"], lay = decal) {
    this.group.visible = Boolean(decal && matrix);
    if (!decal || !matrix || !lay) return;
    this.group.matrix.copy(matrix);
    this.group.matrixWorldNeedsUpdate = true;
    const knob = gripPoint(decal, { kind: "turn" });
    replace(this.outline, outlineOf(decal));
    replace(
      this.corners,
      new BufferGeometry().setFromPoints(CORNERS.map((corner) => gripPoint(decal, corner))),
    );
    replace(this.knob, new BufferGeometry().setFromPoints([knob]));
    replace(this.stem, new BufferGeometry().setFromPoints([pointOn(decal, 0, decal.height / 2), knob]));
    this.locked = decal.locked;
    const long = 2 * Math.max(lay.width, lay.height);
    const straight = { ...lay, turn: 0 };
    const ends = lines.flatMap(({ way, at }) =>
      [-long, long].map((end) => (way === 0 ? pointOn(straight, at, end) : pointOn(straight, end, at))),
    );
    replace(this.stops, new BufferGeometry().setFromPoints(ends));
    this.stops.visible = ends.length > 0;
  }

  /** Hides the grips where they would cover the decal, in a picture of a size in pixels. */
  suit(camera: Camera, size: Vector2) {
    if (!this.shown) return;
    const ends = this.corners.geometry.getAttribute("position");
    const [a, b, , d] = [0, 1, 2, 3].map((k) => {
      const at = new Vector3().fromBufferAttribute(ends, k).applyMatrix4(this.group.matrix).project(camera);
      return new Vector2((at.x * size.x) / 2, (at.y * size.y) / 2);
    });
    const small = Math.min(a!.distanceTo(b!), a!.distanceTo(d!)) < LEAST_SIDE;
    this.corners.visible = this.knob.visible = this.stem.visible = !this.locked && !small;
  }

  /** Whether the pointer can take hold of them. */
  get hasGrips(): boolean {
    return this.shown && this.corners.visible;
  }

  dispose() {
    for (const mark of [this.outline, this.corners, this.knob, this.stem, this.stops]) {
      mark.geometry.dispose();
      mark.material.dispose();
    }
    for (const { material } of [this.corners, this.knob]) material.map?.dispose();
  }
}

function replace(mark: { geometry: BufferGeometry }, geometry: BufferGeometry) {
  mark.geometry.dispose();
  mark.geometry = geometry;
}

const lineOf = (color: string) =>
  new LineBasicMaterial({ color, transparent: true, depthTest: false, toneMapped: false });

/** White grips with a coloured border. */
function gripsOf(form: "square" | "round"): PointsMaterial {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 32;
  const pen = canvas.getContext("2d")!;
  pen.fillStyle = INK;
  fill(pen, form, 16);
  pen.fillStyle = "#fff";
  fill(pen, form, 11);
  const map = new CanvasTexture(canvas);
  map.colorSpace = SRGBColorSpace;
  const size = form === "round" ? GRIP + 2 : GRIP;
  return new PointsMaterial({
    map,
    size,
    sizeAttenuation: false,
    depthTest: false,
    transparent: true,
    toneMapped: false,
  });
}

function fill(pen: CanvasRenderingContext2D, form: "square" | "round", half: number) {
  if (form === "square") {
    pen.fillRect(16 - half, 16 - half, 2 * half, 2 * half);
    return;
  }
  pen.beginPath();
  pen.arc(16, 16, half, 0, 2 * Math.PI);
  pen.fill();
}
