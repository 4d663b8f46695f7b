import {
  type MeshPhysicalMaterial,
  type Texture as Picture,
  RepeatWrapping,
  SRGBColorSpace,
  TextureLoader,
} from "three";
import type { Appearance, Shaded } from "../api/client";

type Texture = NonNullable<Appearance["textures"]>[number];

const loader = new TextureLoader();
const loaded = new Map<string, Promise<Picture>>();

/** Pictures made by rule have names, all others are blobs. */
function addressOf(picture: string, color: boolean): string {
  return picture.startsWith("made:")
    ? `/api/pictures/${encodeURIComponent(picture.slice(5))}`
    : `/api/blobs/${picture}/shown?color=${color}`;
}

function load(texture: Texture): Promise<Picture> {
  const color = texture.target === "color";
  const key = `${texture.picture}${color}`;
  let picture = loaded.get(key);
  if (!picture) {
    picture = loader.loadAsync(addressOf(texture.picture, color)).then((found) => {
      found.wrapS = found.wrapT = RepeatWrapping;
      found.anisotropy = 8;
      if (color) found.colorSpace = SRGBColorSpace;
      return found;
    });
    picture.catch(() => loaded.delete(key));
    loaded.set(key, picture);
  }
  return picture;
}

/** From a surface's coordinates to the picture's: where it lies, how it is turned, how large one repeat is. */
export function lay(picture: Picture, texture: Texture) {
  const { width = 1, height = 1, turn = 0 } = texture;
  const [x, y] = texture.offset ?? [0, 0];
  const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  picture.matrixAutoUpdate = false;
  picture.matrix.set(
    c / width,
    s / width,
    -(c * x + s * y) / width,
    -s / height,
    c / height,
    (s * x - c * y) / height,
    0,
    0,
    1,
  );
}

/** Puts an appearance's pictures onto its material as they arrive. */
export async function hang(
  material: MeshPhysicalMaterial,
  shown: Shaded,
  textures: Texture[],
  arrived: () => void,
): Promise<void> {
  for (const texture of textures) {
    const picture = (await load(texture)).clone();
    lay(picture, texture);
    if (texture.target === "color") {
      material.map = picture;
      material.color.setRGB(...shown.through_coat);
    } else if (texture.target === "roughness") {
      material.roughnessMap = picture;
      material.roughness = 1;
    } else if (texture.target === "normal") material.normalMap = picture;
    else if (texture.target === "opacity") {
      material.alphaMap = picture;
      material.alphaTest = 0.5;
    } else {
      material.bumpMap = picture;
      // A height of so many mm over a repeat of so many: what the screen's derivatives make of it is near enough.
      material.bumpScale = (20 * (texture.strength ?? 1)) / (texture.width ?? 1);
    }
    material.needsUpdate = true;
  }
  if (textures.length > 0) arrived();
}
