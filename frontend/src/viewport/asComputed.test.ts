import { Texture as Picture, Vector2, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Appearance, Camera, Decal, Placement } from "../api/client";
import { viewOf } from "../state/camera";
import numbers from "./core.numbers.json";
import { laidOut } from "./decalShape";
import { exposureScale } from "./exposure";
import { Lens } from "./lens";
import { placementMatrix, placementOf } from "./placement";
import { lay } from "./textures";

type Texture = NonNullable<Appearance["textures"]>[number];

describe("what the shaded picture computes is what the core says", () => {
  it.each(numbers.projections)("where points are seen %#", ({ camera, seen }) => {
    const lens = new Lens().set(viewOf(camera as unknown as Camera), numbers.aspect, 300);
    numbers.points.forEach((point, k) => {
      const at = new Vector3(...point).project(lens);
      expect(at.x).toBeCloseTo(seen[k]![0]!, 4);
      expect(at.y).toBeCloseTo(seen[k]![1]!, 4);
      expect(Math.abs(at.z)).toBeLessThan(1);
    });
  });

  it.each(numbers.placements)("where a part is put %#", ({ placement, matrix }) => {
    const put = placement as unknown as Placement;
    const ours = placementMatrix(put);
    ours
      .clone()
      .transpose()
      .elements.forEach((value, k) => {
        expect(value).toBeCloseTo(matrix.flat()[k]!, 6);
      });
    const back = placementMatrix(placementOf(ours, put.pivot as [number, number, number]));
    back.elements.forEach((value, k) => {
      expect(value).toBeCloseTo(ours.elements[k]!, 3);
    });
  });

  it.each(numbers.textures)("where a picture lies on a surface %#", ({ texture, at, shares }) => {
    const picture = new Picture();
    lay(picture, texture as unknown as Texture);
    at.forEach(([x, y], k) => {
      const place = new Vector2(x, y).applyMatrix3(picture.matrix);
      expect(place.x).toBeCloseTo(shares[k]![0]!, 6);
      expect(1 - place.y).toBeCloseTo(shares[k]![1]!, 6);
    });
  });

  it.each(numbers.decals)("where a point lies on a decal %#", ({ decal, at, places }) => {
    at.forEach((point, k) => {
      const [x, y] = laidOut(decal as unknown as Decal, new Vector3(...point));
      expect(x).toBeCloseTo(places[k]![0]!, 6);
      expect(y).toBeCloseTo(places[k]![1]!, 6);
    });
  });

  it.each(numbers.exposures)("how light is at EV $ev", ({ ev, scale }) => {
    expect(exposureScale(ev) / scale).toBeCloseTo(1, 6);
  });
});
