import { expect, test } from "vitest";
import type { Appearance, OpenPBR, Shaded, Standing } from "../api/client";
import { Shades } from "./shades";

const rough = (roughness: number) =>
  ({ id: "paint", params: { specular_roughness: roughness } }) as unknown as Appearance;
const shownAt = (roughness: number) => ({ roughness }) as unknown as Shaded;
const turn = () => new Promise((done) => setTimeout(done));

test("values that are tried are asked of the core, one request at a time, the latest at last", async () => {
  const kept = rough(0.1);
  const standing = { appearances: { paint: kept }, shaded: { paint: shownAt(0.1) } } as unknown as Standing;
  const asked: number[] = [];
  const answers: (() => void)[] = [];
  let renewed = 0;
  const shades = new Shades(
    (params: OpenPBR[]) => {
      const roughness = params[0]!.specular_roughness!;
      asked.push(roughness);
      return new Promise((done) => answers.push(() => done([shownAt(roughness)])));
    },
    () => renewed++,
  );
  expect(shades.of(kept, standing).roughness).toBe(0.1);
  for (const roughness of [0.2, 0.3, 0.4]) {
    expect(shades.of(rough(roughness), standing).roughness).toBe(0.1);
    await turn();
  }
  expect(asked).toEqual([0.2]);
  answers[0]!();
  await turn();
  expect(shades.of(rough(0.4), standing).roughness).toBe(0.2);
  answers[1]!();
  await turn();
  expect(asked).toEqual([0.2, 0.4]);
  expect([shades.of(rough(0.4), standing).roughness, renewed]).toEqual([0.4, 2]);
  expect(shades.of(kept, standing).roughness).toBe(0.1);
});
