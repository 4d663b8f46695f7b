import {
  Box3,
  type Camera,
  Frustum,
  Matrix4,
  type Object3D,
  Scene,
  Vector3,
  type WebGLRenderer,
} from "three";
import { expect, test } from "vitest";
import { ContactShadow } from "./contactShadow";

/** What a renderer would draw of what it is given. */
class Drawn {
  count = 0;

  setRenderTarget() {}
  setClearColor() {}
  clear() {}

  render(object: Object3D, camera: Camera) {
    camera.updateMatrixWorld();
    const seen = new Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
    const frustum = new Frustum().setFromProjectionMatrix(seen);
    if (!(object instanceof Scene) && (!object.frustumCulled || frustum.intersectsObject(object)))
      this.count++;
  }
}

test.each([0, -500])("is blurred both ways wherever the product lies, as at %d mm", (z) => {
  const drawn = new Drawn();
  const bounds = new Box3(new Vector3(900, 0, z), new Vector3(950, 40, z + 30));
  new ContactShadow().update(
    drawn as unknown as WebGLRenderer,
    new Scene(),
    bounds,
    { up: [0, 0, 1], height: z },
    [],
  );
  expect(drawn.count).toBe(2);
});
