import {
  DataTexture,
  EquirectangularReflectionMapping,
  HalfFloatType,
  LinearFilter,
  RGBAFormat,
} from "three";

const MAP_SIZE = { width: 512, height: 256 };

/** The map of a lighting, with the floor's colour below the horizon, as the tracer uses it. */
export async function loadSurroundings(name: string, floor: string): Promise<DataTexture> {
  const reply = await fetch(`/api/lightings/${name}/map?floor=${floor.replace("#", "")}`);
  if (!reply.ok) throw new Error(`surroundings ${reply.status}`);
  const { width, height } = MAP_SIZE;
  const texture = new DataTexture(
    new Uint16Array(await reply.arrayBuffer()),
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
