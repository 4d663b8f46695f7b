import type { Appearance, Edit, Lighting, Shot, Standing } from "./client";

/**
 * The standing as it will be after an edit that replaces a whole thing (a shot, the lighting, an appearance). Shown until
 * the server has answered, so that the next edit builds on it instead of putting the old values back.
 */
export function ahead(standing: Standing, edit: Edit): Standing {
  const { scene } = standing;
  if (edit.kind === "set_shot" && scene.shots[edit.id])
    return { ...standing, scene: { ...scene, shots: { ...scene.shots, [edit.id]: edit.shot as Shot } } };
  if (edit.kind === "set_shots") return withShots(standing, edit.shots as Record<string, Shot | null>);
  if (edit.kind === "set_lighting") return withLighting(standing, edit.id, () => edit.lighting as Lighting);
  if (edit.kind === "set_lamps")
    return withLighting(standing, edit.id, (lighting) => ({
      ...lighting,
      lamps: Object.fromEntries(
        Object.entries({ ...lighting.lamps, ...edit.lamps }).filter(([, lamp]) => lamp !== null),
      ) as Lighting["lamps"],
    }));
  if (edit.kind === "change_appearance") {
    const changed = edit.appearance as Appearance;
    const { [changed.id]: _, ...shaded } = standing.shaded;
    return {
      ...standing,
      shaded,
      appearances: { ...standing.appearances, [changed.id]: changed },
      scene: { ...scene, appearances: { ...scene.appearances, [changed.id]: changed } },
    };
  }
  return standing;
}

function withShots(standing: Standing, change: Record<string, Shot | null>): Standing {
  const { scene, whites } = standing;
  const shots = Object.fromEntries(
    Object.entries({ ...scene.shots, ...change }).filter((one): one is [string, Shot] => one[1] !== null),
  );
  // A further shot is made like another one, whose white balance it shares.
  const alike = (shot: Shot) => Object.keys(scene.shots).find((id) => scene.shots[id]!.white === shot.white);
  const added = Object.entries(shots).flatMap(([id, shot]) => {
    const like = id in whites ? undefined : alike(shot);
    return like === undefined ? [] : [[id, whites[like]!] as const];
  });
  return {
    ...standing,
    scene: { ...scene, shots } as Standing["scene"],
    whites: { ...whites, ...Object.fromEntries(added) },
  };
}

function withLighting(
  standing: Standing,
  id: string | null | undefined,
  change: (lighting: Lighting) => Lighting,
): Standing {
  const { scene } = standing;
  const key = id ?? scene.lit_by;
  const before = scene.lightings[key];
  if (!before) return standing;
  return { ...standing, scene: { ...scene, lightings: { ...scene.lightings, [key]: change(before) } } };
}
