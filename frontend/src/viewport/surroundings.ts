import {
  DataTexture,
  EquirectangularReflectionMapping,
  HalfFloatType,
  LinearFilter,
  RGBAFormat,
} from "three";
import type { Lighting } from "../api/client";

const MAP_SIZE = { width: 512, height: 256 };

/** The light of a lighting, or its surroundings as they are seen, as one map; the server works it out. */
export async function loadMap(
  kind: "lighting-map" | "backdrop-map",
  lighting: Lighting,
  center: [number, number, number],
): Promise<DataTexture> {
  const reply = await fetch(`/api/${kind}`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ lighting, center }),
  });
  if (!reply.ok) throw new Error(`${kind} ${reply.status}`);
  const { width, height } = MAP_SIZE;
  const texture = new DataTexture(
    zenithLast(new Uint16Array(await reply.arrayBuffer())),
    width,
    height,
    RGBAFormat,
    HalfFloatType,
  );
  texture.flipY = false;
  texture.mapping = EquirectangularReflectionMapping;
  texture.minFilter = texture.magFilter = LinearFilter;
  texture.needsUpdate = true;
  return texture;
}

/** Rows in the order of a texture, which starts at the bottom; they come with the zenith first. */
function zenithLast(values: Uint16Array): Uint16Array<ArrayBuffer> {
  const row = 4 * MAP_SIZE.width;
  const turned = new Uint16Array(values.length);
  for (let y = 0; y < MAP_SIZE.height; y++)
    turned.set(values.subarray(y * row, (y + 1) * row), values.length - (y + 1) * row);
  return turned;
}
