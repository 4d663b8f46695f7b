import { BufferAttribute, BufferGeometry } from "three";

export interface PartMesh {
  surface: BufferGeometry;
  creases: BufferGeometry;
  /** First triangle and count of each face. */
  faceRanges: Uint32Array;
  triangles: number;
  /** Memory that the arrays take, here and once more with the graphics card. */
  bytes: number;
}

interface ArraySpec {
  type: "f4" | "u4";
  shape: number[];
  offset: number;
}

/** Views a mesh block's arrays without copying. Throws when the bytes are not a mesh block. */
export function parseMeshBlock(block: ArrayBuffer): Record<string, Float32Array | Uint32Array> {
  const magic = new TextDecoder().decode(new Uint8Array(block, 0, 4));
  if (magic !== "ULM1") throw new Error("not a mesh block");
  const length = new DataView(block).getUint32(4, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(block, 8, length))) as Record<
    string,
    ArraySpec
  >;
  const arrays: Record<string, Float32Array | Uint32Array> = {};
  for (const [name, { type, shape, offset }] of Object.entries(header)) {
    const size = shape.reduce((a, b) => a * b, 1);
    const View = type === "f4" ? Float32Array : Uint32Array;
    arrays[name] = new View(block, 8 + length + offset, size);
  }
  return arrays;
}

export function toPartMesh(block: ArrayBuffer): PartMesh {
  const arrays = parseMeshBlock(block);
  const surface = new BufferGeometry();
  surface.setAttribute("position", new BufferAttribute(arrays.positions!, 3));
  surface.setAttribute("normal", new BufferAttribute(arrays.normals!, 3));
  if (arrays.coordinates) surface.setAttribute("uv", new BufferAttribute(arrays.coordinates, 2));
  surface.setIndex(new BufferAttribute(arrays.triangles!, 1));
  surface.computeBoundingSphere();
  const creases = new BufferGeometry();
  creases.setAttribute("position", new BufferAttribute(arrays.edges!, 3));
  return {
    surface,
    creases,
    faceRanges: arrays.face_ranges as Uint32Array,
    triangles: arrays.triangles!.length / 3,
    bytes: block.byteLength,
  };
}

const loaded = new Map<string, Promise<PartMesh>>();

/** As it is, as a coarse stand-in, or with coordinates in mm: of each face unrolled, or as they were laid by hand. */
export type MeshForm = "fine" | "coarse" | "unrolled" | `laid?how=${string}`;

/** How many cut meshes are kept: a plane that is dragged makes new ones all the time. */
const CUTS = 400;
const isCut = (address: string) => address.includes("~");

/** A definition's mesh in one of its forms, fetched once; blobs never change. Of a cut mesh there is no stand-in. */
export function loadMesh(sha256: string, form: MeshForm = "fine"): Promise<PartMesh> {
  const address = form === "fine" || (form === "coarse" && isCut(sha256)) ? sha256 : `${sha256}/${form}`;
  let mesh = loaded.get(address);
  if (!mesh) {
    mesh = fetch(`/api/blobs/${address}`).then(async (reply) => {
      if (!reply.ok) throw new Error(`mesh ${reply.status}`);
      return toPartMesh(await reply.arrayBuffer());
    });
    mesh.catch(() => loaded.delete(address));
    loaded.set(address, mesh);
    if (isCut(address)) forgetCuts();
  }
  return mesh;
}

/** Lets the oldest cut meshes go. Their arrays go with the last part that is drawn with them. */
function forgetCuts() {
  const cuts = [...loaded.keys()].filter(isCut);
  for (const address of cuts.slice(0, Math.max(0, cuts.length - CUTS))) loaded.delete(address);
}
