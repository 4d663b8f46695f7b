import type { Model, Schemas, Section, Shot, Standing } from "../api/client";

type Shown = Schemas["SectionShown"];

/** The model with the meshes of what a section cuts. The rest of it is as it was, and so is its mesh. */
export function cutModel(model: Model, shown: Shown | undefined): Model {
  const cut = shown?.cut ?? {};
  if (Object.keys(cut).length === 0) return model;
  const definitions = { ...model.definitions };
  const nodes = model.nodes.map((node) => {
    const part = cut[node.uid];
    const whole = node.definition && definitions[node.definition];
    if (!part || !whole) return node;
    definitions[part.mesh] = { ...whole, mesh: part.mesh };
    return { ...node, definition: part.mesh };
  });
  const meshes = Object.values(cut).map((part) => part.mesh);
  return { ...model, arrangement: `${model.arrangement} ${meshes.join(" ")}`, nodes, definitions };
}

/** The standing as a section leaves it: what lies before the plane is hidden, what closes the cut wears its colour. */
export function cutStanding(standing: Standing, shown: Shown | undefined): Standing {
  if (!shown) return standing;
  const states = Object.fromEntries(shown.gone.map((uid) => [uid, "hidden" as const]));
  const scene = { ...standing.scene, states: { ...states, ...standing.scene.states } };
  const { cap, shaded } = shown;
  if (!cap || !shaded) return { ...standing, scene };
  const worn = { ...standing.worn };
  for (const [uid, { face }] of Object.entries(shown.cut)) {
    const own = worn[uid];
    if (own) worn[uid] = { ...own, faces: { ...own.faces, [face]: cap.id } };
  }
  return {
    ...standing,
    scene,
    worn,
    appearances: { ...standing.appearances, [cap.id]: cap },
    shaded: { ...standing.shaded, [cap.id]: shaded },
  };
}

export const WAYS = {
  x: [1, 0, 0],
  y: [0, 1, 0],
  z: [0, 0, 1],
} as const;
export type Way = keyof typeof WAYS | "own";

/** Along which axis a section cuts. */
export function wayOf({ normal }: Section): Way {
  const length = Math.hypot(...normal);
  const axis = (["x", "y", "z"] as const).find(
    (_, index) => Math.abs(Math.abs(normal[index]!) / length - 1) < 1e-6,
  );
  return axis ?? "own";
}

/** The upright plane that takes away what lies towards a camera. */
export function towards(camera: Shot["camera"]): Section["normal"] {
  const [x, y] = [0, 1].map((k) => camera.position[k]! - camera.target[k]!) as [number, number];
  return Math.abs(x) > Math.abs(y) ? [Math.sign(x), 0, 0] : [0, Math.sign(y) || -1, 0];
}

/** The same plane with the other side taken away. */
export function flipped(section: Section): Section {
  const normal = section.normal.map((value) => -value || 0) as Section["normal"];
  return { ...section, normal, offset: -section.offset || 0 };
}
