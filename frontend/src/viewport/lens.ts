import { OrthographicCamera, PerspectiveCamera } from "three";
import { FILM_WIDTH } from "../api/generated/facts";
import { axes, type View } from "../state/camera";

/** The two cameras that draw the shaded picture, set to a view. */
export class Lens {
  private readonly perspective = new PerspectiveCamera();
  private readonly parallel = new OrthographicCamera();

  /** `extent` is the diagonal of what is shown, mm; 0 when nothing is. */
  set(view: View, aspect: number, extent: number): PerspectiveCamera | OrthographicCamera {
    const distance = view.position.distanceTo(view.target);
    const across = FILM_WIDTH / 2 / view.focal;
    const reach = extent > 0 ? extent * 8 : distance;
    const camera = view.parallel ? this.parallel : this.perspective;
    if (camera instanceof PerspectiveCamera) {
      camera.fov = (2 * Math.atan(across / aspect) * 180) / Math.PI;
      camera.aspect = aspect;
      camera.near = Math.max(distance - reach, distance / 200);
    } else {
      const half = across * distance;
      Object.assign(camera, { left: -half, right: half, top: half / aspect, bottom: -half / aspect });
      camera.near = -reach;
    }
    camera.far = distance + reach;
    // What is cut away is not drawn, and a cut behind everything leaves nothing.
    const cut = view.optics?.near;
    if (cut != null) camera.near = Math.min(Math.max(cut, distance / 200), camera.far - distance / 200);
    camera.position.copy(view.position);
    camera.up.copy(axes(view).up);
    camera.lookAt(view.target);
    camera.updateProjectionMatrix();
    shift(camera, view, aspect);
    camera.updateMatrixWorld();
    return camera;
  }
}

/** Moves the frame off the axis, as a shifted lens does. */
function shift(camera: PerspectiveCamera | OrthographicCamera, view: View, aspect: number) {
  const [right, up] = view.optics?.shift ?? [0, 0];
  if (!right && !up) return;
  const x = (2 * right) / FILM_WIDTH;
  const y = (2 * up * aspect) / FILM_WIDTH;
  const elements = camera.projectionMatrix.elements;
  const column = camera instanceof PerspectiveCamera ? 8 : 12;
  const sign = camera instanceof PerspectiveCamera ? 1 : -1;
  elements[column] = elements[column]! + sign * x;
  elements[column + 1] = elements[column + 1]! + sign * y;
  camera.projectionMatrixInverse.copy(camera.projectionMatrix).invert();
}
