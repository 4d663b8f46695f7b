import { type BufferGeometry, Mesh, MeshPhysicalMaterial } from "three";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Appearance, Model } from "../api/client";
import { Detail } from "./detail";
import { loadMesh, parseMeshBlock, toPartMesh } from "./meshblock";
import type { StagedPart } from "./stagedPart";
import { formFor, wear } from "./wear";

const ARRAYS = {
  positions: new Float32Array([0, 0, 0, 10, 0, 0, 10, 10, 0, 0, 10, 0]),
  normals: new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]),
  edges: new Float32Array(0),
  triangles: new Uint32Array([0, 1, 2, 0, 2, 3]),
  face_ranges: new Uint32Array([0, 1, 1, 1]),
};

/** The bytes of a mesh block, as the core writes them. */
function block(arrays: Record<string, Float32Array | Uint32Array> = ARRAYS): ArrayBuffer {
  const specs: Record<string, object> = {};
  let offset = 0;
  for (const [name, array] of Object.entries(arrays)) {
    const type = array instanceof Float32Array ? "f4" : "u4";
    const shape = name === "face_ranges" ? [array.length / 2, 2] : [array.length];
    specs[name] = { type, shape, offset };
    offset += array.byteLength;
  }
  let header = JSON.stringify(specs);
  header += " ".repeat(-header.length & 3);
  const bytes = new Uint8Array(8 + header.length + offset);
  bytes.set(new TextEncoder().encode("ULM1"));
  new DataView(bytes.buffer).setUint32(4, header.length, true);
  bytes.set(new TextEncoder().encode(header), 8);
  let at = 8 + header.length;
  for (const array of Object.values(arrays)) {
    bytes.set(new Uint8Array(array.buffer), at);
    at += array.byteLength;
  }
  return bytes.buffer;
}

function staged(key = "k"): StagedPart {
  const source = toPartMesh(block());
  return { key, source, mesh: new Mesh(source.surface, new MeshPhysicalMaterial()) } as unknown as StagedPart;
}

afterEach(() => vi.unstubAllGlobals());

describe("a mesh block", () => {
  it("is read as it was written", () => {
    const arrays = parseMeshBlock(block());
    expect(arrays.positions).toEqual(ARRAYS.positions);
    expect(arrays.face_ranges).toEqual(ARRAYS.face_ranges);
    const mesh = toPartMesh(block());
    expect(mesh.triangles).toBe(2);
    expect(mesh.surface.boundingSphere!.radius).toBeCloseTo(Math.hypot(5, 5));
  });
  it("is told from other bytes", () => {
    expect(() => parseMeshBlock(new TextEncoder().encode("solid cube of text").buffer)).toThrow("not a mesh");
  });
  it("is fetched once, and again after a failure", async () => {
    const fetched = vi.fn().mockResolvedValueOnce(new Response(null, { status: 503 }));
    fetched.mockImplementation(async () => new Response(block()));
    vi.stubGlobal("fetch", fetched);
    await expect(loadMesh("once")).rejects.toThrow("503");
    const [one, other] = await Promise.all([loadMesh("once"), loadMesh("once")]);
    expect(one).toBe(other);
    await loadMesh("once", "coarse");
    expect(fetched.mock.calls.map(([address]) => address)).toEqual([
      "/api/blobs/once",
      "/api/blobs/once",
      "/api/blobs/once/coarse",
    ]);
  });
});

describe("what a part wears", () => {
  const materials = new Map(["steel", "brass"].map((id) => [id, new MeshPhysicalMaterial()]));
  const of = (id: string) => materials.get(id)!;

  it("is one material for the whole, or one for each run of faces", () => {
    const part = staged();
    wear(part, "steel", {}, of);
    expect(part.mesh.material).toBe(of("steel"));
    wear(part, "steel", { "1": "brass" }, of);
    expect(part.mesh.material).toEqual([of("steel"), of("brass")]);
    const groups = (part.mesh.geometry as BufferGeometry).groups;
    expect(groups).toEqual([
      { start: 0, count: 3, materialIndex: 0 },
      { start: 3, count: 3, materialIndex: 1 },
    ]);
    expect(part.source.surface.groups).toEqual([]);
    wear(part, "brass", {}, of);
    expect(part.mesh.geometry).toBe(part.source.surface);
  });
  it("asks for coordinates only where a picture needs them", () => {
    const all = {
      plain: { textures: [] },
      own: { textures: [{ mapping: "file" }] },
      wood: { textures: [{ mapping: "surface" }] },
    } as unknown as Record<string, Appearance>;
    const worn = (appearance: string, more: object = {}) =>
      formFor({ appearance, faces: {}, laid: null, why: "part", layers: [], own_faces: {}, ...more }, all);
    expect(worn("plain")).toBeUndefined();
    expect(worn("own")).toBeUndefined();
    expect(worn("wood")).toBe("unrolled");
    expect(worn("plain", { faces: { 3: "wood" } })).toBe("unrolled");
    expect(worn("wood", { laid: "plane,1" })).toBe("laid?how=plane,1");
  });
});

describe("a large assembly", () => {
  const model = (triangles: number) =>
    ({
      nodes: [{ definition: "d" }, { definition: "d" }, { definition: null }],
      definitions: { d: { triangles } },
    }) as unknown as Model;

  it("comes coarse first, counting every occurrence", () => {
    expect(new Detail(model(500_000)).coarseFirst).toBe(false);
    expect(new Detail(model(500_001)).coarseFirst).toBe(true);
  });
});
