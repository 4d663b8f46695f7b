import { Vector3 } from "three";
import { describe, expect, it, vi } from "vitest";
import { Ground, type GroundShown } from "./ground";

const CORNERS = [
  [-100, -100],
  [100, -100],
  [100, 100],
  [-100, 100],
];
const colors = { color: [0.2, 0.1, 0.05], specular_color: [1, 1, 1], fuzz_color: [0, 0, 0], glow: [0, 0, 0] };
const shown = (z: number) =>
  ({
    appearance: { id: "oak", textures: [] },
    shaded: { ...colors, roughness: 0.5, opacity: 1 },
    mesh: {
      positions: CORNERS.map(([x, y]) => [x, y, z]),
      normals: CORNERS.map(() => [0, 0, 1]),
      triangles: [
        [0, 1, 2],
        [0, 2, 3],
      ],
      coordinates: CORNERS,
    },
  }) as unknown as GroundShown;

describe("the floor of the shaded picture", () => {
  it("is the core's mesh, a hair lower than the contact shadow", () => {
    const ground = new Ground();
    expect(ground.mesh.visible).toBe(false);
    ground.show(shown(-3), vi.fn());
    const { geometry, position } = ground.mesh;
    expect(ground.mesh.visible).toBe(true);
    expect([...geometry.getAttribute("uv").array]).toEqual(CORNERS.flat());
    expect(geometry.getIndex()!.count).toBe(6);
    const corner = new Vector3().fromBufferAttribute(geometry.getAttribute("position"), 2).add(position);
    expect(corner.z).toBeLessThan(-3);
    expect(corner.z).toBeGreaterThan(-3.1);
  });

  it("goes, and leaves nothing of an earlier one on the graphics card", () => {
    const ground = new Ground();
    ground.show(shown(0), vi.fn());
    const dropped = vi.fn();
    ground.mesh.geometry.addEventListener("dispose", dropped);
    ground.mesh.material.addEventListener("dispose", dropped);
    ground.show(shown(5), vi.fn());
    expect(dropped).toHaveBeenCalledTimes(2);
    ground.show(undefined, vi.fn());
    expect(ground.mesh.visible).toBe(false);
  });
});
