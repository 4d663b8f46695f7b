import { Box3, Matrix4, SphereGeometry, Vector3 } from "three";
import { MeshBVH } from "three-mesh-bvh";
import { describe, expect, it } from "vitest";
import { boxAround, cornersIn, partOf } from "./trianglesIn";

const box = new Box3(new Vector3(3, -2, -2), new Vector3(20, 2, 2));

describe("the triangles of a mesh in a box", () => {
  it("are the same with its search tree and without", () => {
    const ball = new SphereGeometry(10, 48, 32);
    const without = cornersIn(ball, box);
    ball.boundsTree = new MeshBVH(ball, { indirect: true });
    const triples = (corners: number[]) =>
      Array.from({ length: corners.length / 3 }, (_, k) => corners.slice(3 * k, 3 * k + 3).join()).sort();
    expect(triples(cornersIn(ball, box))).toEqual(triples(without));
    expect(without.length).toBeGreaterThan(30);
    expect(without.length).toBeLessThan(ball.getIndex()!.count / 10);
    const places = ball.getAttribute("position");
    for (const corner of without) expect(places.getX(corner)).toBeGreaterThan(0.5);
    expect(partOf(ball, without).getIndex()!.count).toBe(without.length);
  });

  it("are looked for in the box around one that stands askew", () => {
    const askew = new Matrix4().makeRotationZ(Math.PI / 4).setPosition(1, 2, 3);
    const around = boxAround(askew, new Vector3(2, 2, 6));
    expect(around.min.toArray()).toEqual(
      [1 - Math.SQRT2, 2 - Math.SQRT2, 0].map((at) => expect.closeTo(at, 9)),
    );
    expect(around.max.toArray()).toEqual(
      [1 + Math.SQRT2, 2 + Math.SQRT2, 6].map((at) => expect.closeTo(at, 9)),
    );
  });
});
