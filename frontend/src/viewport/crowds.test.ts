import { BoxGeometry, Group, InstancedMesh, type Material, Matrix4, Mesh, MeshBasicMaterial } from "three";
import { expect, test } from "vitest";
import { Crowds } from "./crowds";
import type { StagedPart } from "./stagedPart";

function part(mesh: Mesh, x: number): StagedPart {
  const group = new Group();
  group.matrixAutoUpdate = false;
  group.matrix.makeTranslation(x, 0, 0);
  group.add(mesh);
  return { group, mesh } as unknown as StagedPart;
}

test("parts of one shape in one appearance are drawn in one call, where they stand", () => {
  const product = new Group();
  const crowds = new Crowds(product);
  const [bolt, nut] = [new BoxGeometry(), new BoxGeometry()];
  const [steel, glass] = [new MeshBasicMaterial(), new MeshBasicMaterial({ transparent: true })];
  const parts = [1, 2, 3, 4].map((x) => part(new Mesh(bolt, steel), x));
  const clear = [5, 6, 7].map((x) => part(new Mesh(bolt, glass), x));
  const nuts = [8, 9].map((x) => part(new Mesh(nut, steel), x));
  const joins = (material: Material) => !material.transparent;
  const arrange = () => crowds.arrange([...parts, ...clear, ...nuts], joins);
  arrange();
  expect(product.children.filter((child) => !(child instanceof InstancedMesh))).toHaveLength(5);
  const crowd = product.children.find((child) => child instanceof InstancedMesh) as InstancedMesh;
  expect(crowd.count).toBe(4);
  const at = new Matrix4();
  crowd.getMatrixAt(2, at);
  expect(at.elements[12]).toBe(3);
  // What rays are sent to stands there too, although it is not in the scene.
  expect(parts[2]!.mesh.matrixWorld.elements[12]).toBe(3);

  parts[0]!.mesh.visible = false;
  parts[1]!.group.matrix.makeTranslation(20, 0, 0);
  arrange();
  const again = product.children.find((child) => child instanceof InstancedMesh) as InstancedMesh;
  expect(again).toBe(crowd);
  expect(crowd.count).toBe(3);
  expect(crowd.boundingSphere!.center.x).toBeCloseTo(11.5, 0);

  parts[3]!.mesh.material = [steel];
  arrange();
  expect(product.children.some((child) => child instanceof InstancedMesh)).toBe(false);
  expect(product.children).toHaveLength(8);
});
