import {
  BufferGeometry,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
} from "three";
import { Outline } from "./outline";
import type { StagedPart } from "./stagedPart";

/** More chosen parts than this are outlined without their creases. */
const MOST_WITH_CREASES = 60;

/** Outlines over the picture: of what is chosen, and of what the pointer is over. */
export class Marks {
  readonly group = new Group();
  private readonly chosen = new Group();
  private readonly hovered = new Group();
  private readonly lit = new Group();
  private readonly outline = new Outline();
  private readonly hoverOutline = new Outline("#23272e", 1.5);
  private readonly crease = new LineBasicMaterial({
    color: "#0b6b73",
    depthTest: false,
    transparent: true,
    opacity: 0.35,
  });

  private readonly faces = new Group();
  private readonly faceLook = new MeshBasicMaterial({
    color: "#0b6b73",
    transparent: true,
    opacity: 0.45,
    side: DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: -2,
    polygonOffsetUnits: -2,
  });

  /** Of what is chosen: where it is, its mesh, and whether it is seen through. */
  private signature = "";

  constructor() {
    this.group.add(this.chosen, this.faces, this.hovered, this.lit);
  }

  get any(): boolean {
    return [this.chosen, this.faces, this.hovered, this.lit].some((marks) => marks.children.length > 0);
  }

  /** Marks whole parts and single faces; whether that changed anything. */
  choose(parts: StagedPart[], faces: { part: StagedPart; face: number }[]): boolean {
    const signs = [...parts.map(signOf), ...faces.map(({ part, face }) => `${signOf(part)} ${face}`)];
    const signature = signs.join("\n");
    if (signature === this.signature) return false;
    this.signature = signature;
    this.chooseParts(parts);
    this.chooseFaces(faces);
    return true;
  }

  private chooseFaces(faces: { part: StagedPart; face: number }[]) {
    for (const old of this.faces.children as Mesh[]) old.geometry.dispose();
    this.faces.clear();
    for (const { part, face } of faces) {
      const [first, count] = part.source.faceRanges.subarray(2 * face, 2 * face + 2) as unknown as [
        number,
        number,
      ];
      // The arrays stay the part's; only the range is the face's.
      const patch = new BufferGeometry();
      for (const [name, attribute] of Object.entries(part.source.surface.attributes))
        patch.setAttribute(name, attribute);
      patch.setIndex(part.source.surface.index);
      patch.setDrawRange(first * 3, count * 3);
      this.faces.add(placed(new Mesh(patch, this.faceLook), part, 6));
    }
  }

  private chooseParts(parts: StagedPart[]) {
    this.chosen.clear();
    for (const part of parts) {
      this.chosen.add(...outlined(part, this.outline, 5));
      if (parts.length <= MOST_WITH_CREASES)
        this.chosen.add(placed(new LineSegments(part.source.creases, this.crease), part, 5));
    }
  }

  hover(part: StagedPart | undefined) {
    this.hovered.clear();
    if (part) this.hovered.add(...outlined(part, this.hoverOutline, 7));
  }

  /** Parts that would change. */
  light(parts: StagedPart[]) {
    this.lit.clear();
    for (const part of parts) this.lit.add(...outlined(part, this.outline, 7));
  }

  resize(width: number, height: number) {
    this.outline.resize(width, height);
    this.hoverOutline.resize(width, height);
  }
}

function signOf(part: StagedPart): string {
  return [part.uid, part.source.surface.id, isClear(part), ...part.group.matrix.elements].join(" ");
}

export function isClear(part: StagedPart): boolean {
  const { material } = part.mesh;
  return !Array.isArray(material) && material.transparent;
}

function outlined(part: StagedPart, outline: Outline, order: number): Mesh[] {
  return outline
    .materials(isClear(part))
    .map((look, step) => placed(new Mesh(part.source.surface, look), part, order + step));
}

export function placed<T extends Mesh | LineSegments>(object: T, part: StagedPart, order: number): T {
  object.matrixAutoUpdate = false;
  object.matrix.copy(part.group.matrix);
  object.raycast = () => undefined;
  object.renderOrder = order;
  return object;
}
