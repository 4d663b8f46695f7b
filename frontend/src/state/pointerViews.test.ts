import { Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { FILM_WIDTH } from "../api/generated/facts";
import { axes, cameraOf, mmAcross, opticsOf, shiftedView, type View, zoomed } from "./camera";

const ASPECT = 1.5;
const plain: View = {
  position: new Vector3(40, -90, 30),
  target: new Vector3(0, 0, 0),
  focal: 85,
  parallel: false,
};
const optics = { ...opticsOf(cameraOf(plain)), shift: [44, 5] as [number, number], roll: 12 };

/** Where a view shows a point, -1..1 across and upwards: the core's projection, written out for the check. */
function shown(view: View, point: Vector3): [number, number] {
  const { right, up, forward, distance } = axes(view);
  const arm = point.clone().sub(view.position);
  const depth = view.parallel ? distance : arm.dot(forward);
  const [sideways, upwards] = view.optics?.shift ?? [0, 0];
  const film = (way: Vector3, shift: number) => (arm.dot(way) / depth) * view.focal - shift;
  return [(film(right, sideways) * 2) / FILM_WIDTH, (film(up, upwards) * 2 * ASPECT) / FILM_WIDTH];
}

describe("moving the view by the pointer", () => {
  it.each([
    ["as a shot usually is", plain],
    ["parallel", { ...plain, parallel: true }],
    ["cropped and rolled", { ...plain, focal: 440, optics }],
  ])("zooms at what lies under it, at the target's depth: %s", (_, view) => {
    const { right, up } = axes(view);
    const point = view.target.clone().addScaledVector(right, 7).addScaledVector(up, -4);
    const at = shown(view, point);
    for (const factor of [0.6, 1.7]) {
      const next = zoomed(view, factor, at, ASPECT);
      const [x, y] = shown(next, point);
      expect(x).toBeCloseTo(at[0], 6);
      expect(y).toBeCloseTo(at[1], 6);
      const length = view.position.distanceTo(view.target);
      expect(next.position.distanceTo(next.target)).toBeCloseTo(factor * length, 6);
    }
  });

  it("shifts the picture along with it", () => {
    const before = shown(plain, plain.target);
    const [x, y] = shown(shiftedView(plain, 0.1, 0.05), plain.target);
    // Shares of the frame's width: 0.1 is 0.2 of the -1..1 across, and half as much counts 1.5 times as high.
    expect(x - before[0]).toBeCloseTo(0.2, 6);
    expect(y - before[1]).toBeCloseTo(-0.15, 6);
  });

  it("knows how much the frame shows at a depth", () => {
    const ahead = { ...plain, position: new Vector3(0, -100, 0) };
    expect(mmAcross(ahead, ahead.target)).toBeCloseTo((36 / 85) * 100, 9);
    expect(mmAcross(ahead, new Vector3(30, 100, 0))).toBeCloseTo((36 / 85) * 200, 9);
    expect(mmAcross({ ...ahead, parallel: true }, new Vector3(0, 100, 0))).toBeCloseTo((36 / 85) * 100, 9);
  });
});
