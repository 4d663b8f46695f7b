import {
  Box3,
  Color,
  DirectionalLight,
  DoubleSide,
  FrontSide,
  Group,
  HemisphereLight,
  Matrix4,
  Mesh,
  MeshStandardMaterial,
  OrthographicCamera,
  Scene,
  type Texture,
  TextureLoader,
  Vector3,
  WebGLRenderer,
} from "three";
import type { Decal } from "../api/client";
import { cut, onlyWithin, readied, shownPicture, wayOut } from "./decalShape";
import { loadMesh, type PartMesh } from "./meshblock";
import { freeGroups, inGroups } from "./wear";

/** Faces by number, and their colours in linear Rec. 709. */
export type FaceColors = readonly (readonly [number, [number, number, number]])[];

export interface SketchPart {
  mesh: string;
  /** 4 x 4 row-major, mm. */
  world: number[];
  /** Linear Rec. 709. */
  color?: [number, number, number];
  /** Faces that have another. */
  faces?: FaceColors;
  /** Of a part that one sees through, less than 1. */
  opacity?: number;
  /** On it; it is looked at from its front. */
  decal?: Decal;
}

interface Size {
  width: number;
  height: number;
}

/** From the product to the viewer. */
const VIEW = new Vector3(-0.45, -0.8, 0.42);

/** Half the width of a picture of a decal, in widths of it. */
const NEAR = 0.9;

let renderer: WebGLRenderer | undefined;
let queue: Promise<unknown> = Promise.resolve();

/** A small picture of some parts in plain light, as an address for an image. One renderer draws them all in turn. */
export function sketch(parts: SketchPart[], size: Size, turn?: Matrix4): Promise<string> {
  const made = queue.then(() => draw(parts, size, turn));
  queue = made.catch(() => undefined);
  return made;
}

async function draw(parts: SketchPart[], { width, height }: Size, turn?: Matrix4): Promise<string> {
  const sources = await Promise.all(parts.map((part) => loadMesh(part.mesh)));
  const pictures = await Promise.all(parts.map((part) => part.decal && pictureOf(part.decal)));
  renderer ??= new WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true });
  renderer.setSize(width * 2, height * 2, false);
  const scene = new Scene();
  const product = new Group();
  parts.forEach((part, index) => {
    const material = new MeshStandardMaterial({ roughness: 0.6 });
    const clear = (part.opacity ?? 1) < 0.9;
    // Files of faces alone have some inside out; the picture shows those too, as the desk and stills do.
    material.side = clear ? FrontSide : DoubleSide;
    material.color = part.color ? new Color().setRGB(...part.color) : new Color("#b9bdc0");
    if (clear) Object.assign(material, { transparent: true, opacity: 0.3, depthWrite: false });
    const mesh = inColors(sources[index]!, material, part.faces ?? []);
    mesh.matrixAutoUpdate = false;
    mesh.matrix.set(...(part.world as Parameters<Matrix4["set"]>));
    if (turn) mesh.matrix.premultiply(turn);
    if (part.decal) mesh.matrix.premultiply(turnedToFront(part.decal, mesh.matrix));
    mesh.matrixWorldNeedsUpdate = true;
    product.add(mesh);
    if (part.decal) product.add(stuck(part.decal, mesh, pictures[index]!));
  });
  const key = new DirectionalLight("#ffffff", 2.4);
  key.position.set(-0.5, -1, 1.2);
  scene.add(product, key, new HemisphereLight("#ffffff", "#8d887c", 1.5));
  const box = new Box3().setFromObject(product);
  renderer.render(
    scene,
    framing(box, width / height, parts.length === 1 ? spotOf(parts[0]!, product) : undefined),
  );
  const address = renderer.domElement.toDataURL("image/png");
  for (const { material, geometry } of product.children as Mesh[]) {
    for (const one of [material].flat()) one.dispose();
    if (Array.isArray(material)) freeGroups(geometry);
  }
  for (const picture of pictures) picture?.dispose();
  return address;
}

/** A part in one material, but for some faces in another colour. */
function inColors(source: PartMesh, whole: MeshStandardMaterial, faces: FaceColors): Mesh {
  // A coarse stand-in has one face only.
  if (faces.length === 0 || source.faceRanges.length <= 2) return new Mesh(source.surface, whole);
  const worn = [whole];
  const slots = new Map<string, number>();
  for (const [, color] of faces) {
    if (slots.has(color.join())) continue;
    const material = whole.clone();
    material.color.setRGB(...color);
    slots.set(color.join(), worn.push(material) - 1);
  }
  const other = new Map(faces.map(([face, color]) => [face, slots.get(color.join())!]));
  return new Mesh(
    inGroups(source, (face) => other.get(face) ?? 0),
    worn,
  );
}

async function pictureOf(decal: Decal): Promise<Texture> {
  return readied(await new TextureLoader().loadAsync(shownPicture(decal)), decal);
}

/** Turns what a matrix places so that a decal on it looks towards the viewer, upright. */
function turnedToFront(decal: Decal, matrix: Matrix4): Matrix4 {
  const out = wayOut(decal).transformDirection(matrix);
  const up = new Vector3(...decal.up).transformDirection(matrix);
  const lies = new Matrix4().makeBasis(up.clone().cross(out), up, out);
  const front = VIEW.clone().normalize();
  const across = new Vector3(0, 0, 1).cross(front).normalize();
  return new Matrix4().makeBasis(across, front.clone().cross(across), front).multiply(lies.invert());
}

function stuck(decal: Decal, body: Mesh, map: Texture): Mesh {
  body.matrixWorld.copy(body.matrix);
  const material = new MeshStandardMaterial({ map, transparent: true, roughness: 0.5, side: DoubleSide });
  Object.assign(material, { polygonOffset: true, polygonOffsetFactor: -4, polygonOffsetUnits: -4 });
  material.onBeforeCompile = onlyWithin;
  return new Mesh(cut(decal, body.matrix, body), material);
}

interface Spot {
  middle: Vector3;
  width: number;
  height: number;
}

/** Where the decal of a part lies that has one: what is looked at is the decal, and the part around it. */
function spotOf({ decal }: SketchPart, product: Group): Spot | undefined {
  if (!decal) return undefined;
  const middle = new Vector3(...decal.center).applyMatrix4(product.children[0]!.matrix);
  return { middle, width: decal.width, height: decal.height };
}

function framing(box: Box3, aspect: number, spot?: Spot): OrthographicCamera {
  const center = spot?.middle ?? box.getCenter(new Vector3());
  const reach = Math.max(box.getSize(new Vector3()).length() / 2, 1e-3);
  const camera = new OrthographicCamera();
  camera.up.set(0, 0, 1);
  camera.position.copy(center).addScaledVector(VIEW, reach * 4);
  camera.lookAt(center);
  camera.updateMatrixWorld();
  let [across, along] = [1e-3, 1e-3];
  for (let k = 0; k < 8; k++) {
    const corner = new Vector3(
      k & 1 ? box.max.x : box.min.x,
      k & 2 ? box.max.y : box.min.y,
      k & 4 ? box.max.z : box.min.z,
    ).applyMatrix4(camera.matrixWorldInverse);
    across = Math.max(across, Math.abs(corner.x));
    along = Math.max(along, Math.abs(corner.y));
  }
  const whole = 1.06 * Math.max(across, along * aspect);
  const near = spot ? NEAR * Math.max(spot.width, spot.height * aspect) : whole;
  const half = Math.min(whole, near);
  Object.assign(camera, { left: -half, right: half, top: half / aspect, bottom: -half / aspect });
  camera.near = reach * 0.1;
  camera.far = reach * 12;
  camera.updateProjectionMatrix();
  return camera;
}
