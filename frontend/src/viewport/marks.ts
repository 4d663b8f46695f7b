import { Group, LineBasicMaterial, LineSegments, Mesh } from "three";
import { Outline } from "./outline";
import type { StagedPart } from "./stage";

/** More chosen parts than this are outlined without their creases. */
const MOST_WITH_CREASES = 60;

/** Outlines over the picture: of what is chosen, and of what the pointer is over. */
export class Marks {
  readonly group = new Group();
  private readonly chosen = new Group();
  private readonly hovered = new Group();
  private readonly outline = new Outline();
  private readonly hoverOutline = new Outline("#23272e", 1.5);
  private readonly crease = new LineBasicMaterial({
    color: "#0b6b73",
    depthTest: false,
    transparent: true,
    opacity: 0.35,
  });

  constructor() {
    this.group.add(this.chosen, this.hovered);
  }

  get any(): boolean {
    return this.chosen.children.length + this.hovered.children.length > 0;
  }

  choose(parts: StagedPart[]) {
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

  resize(width: number, height: number) {
    this.outline.resize(width, height);
    this.hoverOutline.resize(width, height);
  }
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

function placed<T extends Mesh | LineSegments>(object: T, part: StagedPart, order: number): T {
  object.matrixAutoUpdate = false;
  object.matrix.copy(part.group.matrix);
  object.raycast = () => undefined;
  object.renderOrder = order;
  return object;
}
