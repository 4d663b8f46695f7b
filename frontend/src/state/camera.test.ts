import { Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { FILM_WIDTH } from "../api/generated/facts";
import { alongDirection, cameraOf, fitted, SIX_VIEWS, sameView, turned, type View, viewOf } from "./camera";

const VIEW: View = {
  position: new Vector3(0, -100, 0),
  target: new Vector3(0, 0, 0),
  focal: 85,
  parallel: false,
};
const near = (v: Vector3, x: number, y: number, z: number) => {
  expect(v.x).toBeCloseTo(x, 1);
  expect(v.y).toBeCloseTo(y, 1);
  expect(v.z).toBeCloseTo(z, 1);
};

describe("the view on the desk", () => {
  it("goes to a shot's camera and back", () => {
    const parallel = { ...VIEW, parallel: true };
    expect(cameraOf(viewOf(cameraOf(parallel)))).toEqual(cameraOf(parallel));
    expect(sameView(VIEW, cameraOf(VIEW))).toBe(true);
    expect(sameView(VIEW, cameraOf(parallel))).toBe(false);
    expect(sameView({ ...VIEW, focal: 50 }, cameraOf(VIEW))).toBe(false);
  });
  it("turns about its target and stops above and below it", () => {
    near(turned(VIEW, Math.PI / 2, 0).position, 100, 0, 0);
    near(turned(VIEW, 0, Math.PI / 4).position, 0, -70.7, 70.7);
    const above = turned(VIEW, 0, 3);
    expect(above.position.z).toBeGreaterThan(99.9);
    expect(above.position.y).toBeLessThan(0);
  });
  it("looks along the six directions from the same distance", () => {
    near(alongDirection(VIEW, SIX_VIEWS.right).position, 100, 0, 0);
    near(alongDirection(VIEW, SIX_VIEWS.back).position, 0, 100, 0);
    const top = alongDirection(VIEW, SIX_VIEWS.top);
    expect(top.position.z).toBeCloseTo(100, 1);
    expect(top.position.y).toBeLessThan(0);
  });
  it.each([false, true])("fits points into the frame (parallel: %s)", (parallel) => {
    const box = [-1, 1].flatMap((x) =>
      [-1, 1].flatMap((y) => [-1, 1].map((z) => new Vector3(40 * x + 7, 20 * y, 10 * z))),
    );
    const view = fitted({ ...VIEW, parallel }, box, 4 / 3);
    near(view.target, 7, 0, 0);
    const across = FILM_WIDTH / 2 / view.focal;
    const distance = view.position.distanceTo(view.target);
    const widest = Math.max(
      ...box.map((p) => Math.abs(p.x - 7) / across / (parallel ? distance : p.y - view.position.y)),
    );
    expect(widest).toBeCloseTo(0.82, 2);
    expect(fitted(VIEW, [], 1)).toBe(VIEW);
  });
});
