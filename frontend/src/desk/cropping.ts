import type { Edit, Standing } from "../api/client";
import { croppedShot } from "../api/shots";
import { toast } from "../api/toast";
import { cameraOf, viewOf } from "../state/camera";
import { type Region, useDesk } from "../state/deskStore";

/** Makes a part of what the desk shows the whole frame of the shot. */
export async function cropShot(
  standing: Standing,
  id: string,
  region: Region,
  edit: (change: Edit) => void,
): Promise<void> {
  const shot = standing.scene.shots[id]!;
  const view = useDesk.getState().view ?? viewOf(shot.camera);
  const { width, height } = shot;
  try {
    const made = await croppedShot({ camera: cameraOf(view), region, width, height });
    edit({ kind: "set_shot", id, shot: { ...shot, ...made } });
    useDesk.setState({ view: viewOf(made.camera), region: undefined });
  } catch (problem) {
    toast.error((problem as Error).message);
  }
}
