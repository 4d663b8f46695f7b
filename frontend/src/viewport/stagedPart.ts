import type { BufferGeometry, Group, Mesh } from "three";
import type { MeshForm, PartMesh } from "./meshblock";

/** A part in the shaded picture. */
export interface StagedPart {
  uid: string;
  model: string;
  /** Of the mesh block. */
  key: string;
  /** Where it stands. Not in the scene while a crowd draws it, see `Crowds`. */
  group: Group;
  mesh: Mesh;
  source: PartMesh;
  /** Of its mesh, where that carries coordinates in mm. */
  form?: MeshForm;
  /** Its own geometry, where its faces wear different things. */
  ownGeometry?: BufferGeometry;
  /** Whether it was given what it wears; a part that was just loaded was not. */
  dressed?: boolean;
  /** What it wears, while it is drawn faint. */
  worn?: Mesh["material"];
  /** What it is at rest, while a coarse stand-in is drawn. */
  resting?: { source: PartMesh; geometry: BufferGeometry; material: Mesh["material"] };
}
