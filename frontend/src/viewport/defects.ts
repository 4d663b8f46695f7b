import {
  BackSide,
  BufferGeometry,
  Float32BufferAttribute,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
} from "three";
import { api, type components, taken } from "../api/client";
import { placed } from "./marks";
import type { StagedPart } from "./stagedPart";

/** What is odd about meshes: edges that belong to one triangle only or to three and more, and sides seen from within. */
export class Defects {
  readonly group = new Group();
  private wanted = 0;
  private readonly inside = new MeshBasicMaterial({ color: "#b3261e", side: BackSide });
  private readonly open = new LineBasicMaterial({ color: "#b3261e", depthTest: false, transparent: true });
  private readonly crowded = new LineBasicMaterial({ color: "#8a5a00", depthTest: false, transparent: true });

  async show(parts: StagedPart[], arrived: () => void) {
    const turn = ++this.wanted;
    for (const old of this.group.children) if (old instanceof LineSegments) old.geometry.dispose();
    this.group.clear();
    for (const part of parts) this.group.add(placed(new Mesh(part.source.surface, this.inside), part, 4));
    for (const part of parts) {
      const edges = await taken<components["schemas"]["OddEdges"]>(
        api.GET("/api/meshes/{sha256}/odd-edges", { params: { path: { sha256: part.key } } }),
      );
      if (turn !== this.wanted) return;
      this.group.add(this.lines(part, edges.open, this.open), this.lines(part, edges.crowded, this.crowded));
      arrived();
    }
  }

  private lines(part: StagedPart, numbers: number[], look: LineBasicMaterial): LineSegments {
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new Float32BufferAttribute(numbers, 3));
    return placed(new LineSegments(geometry, look), part, 8);
  }
}
