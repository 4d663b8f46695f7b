"""Where the floor lies: level under the lowest point shown, or tilted with a model that it turns along with."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray

from usual_lamp.core.scene.attitude import turning
from usual_lamp.core.scene.document import Lighting, Scene
from usual_lamp.core.scene.frozen import Triple
from usual_lamp.core.scene.resolved import ResolvedScene

Array = NDArray[np.float64]
LEVEL: Triple = (0.0, 0.0, 1.0)


class FloorPlane(NamedTuple):
    """A plane by its unit normal, which points to the side that is seen, and its distance from the origin along it."""

    up: Triple
    height: float
    """mm."""

    @property
    def axes(self) -> Array:
        """(3, 3): rows are two directions in the plane and its normal, those of the review where it is level."""
        return np.asarray(turning(np.array(LEVEL), np.array(self.up)).T)

    def under(self, point: Triple) -> Triple:
        """The place of the plane that a point (mm) stands over."""
        foot = np.subtract(point, np.multiply(self.up, np.dot(self.up, point) - self.height))
        x, y, z = foot.tolist()
        return x, y, z

    def above(self, point: Triple) -> float:
        """How far a point stands over it, mm; negative beneath."""
        return float(np.dot(self.up, point)) - self.height


def floor_plane(resolved: ResolvedScene, lighting: Lighting) -> FloorPlane:
    """The floor of a lighting under what is shown. Raises ValueError when nothing is."""
    if resolved.bounds is None:
        raise ValueError("Nothing is shown: bring at least one part back.")
    up, lift = _up(resolved.scene, lighting), lighting.floor_finish.lift
    if up == LEVEL:
        return FloorPlane(up, float(resolved.bounds.low[2]) + lift)
    heights = np.concatenate([resolved.assembly.corners(part) for part in resolved.shown]) @ np.array(up)
    return FloorPlane(up, float(heights.min()) + lift)


def _up(scene: Scene, lighting: Lighting) -> Triple:
    """The floor's normal; level where no model tilts it, and where surroundings lie on it."""
    tilts = lighting.floor_finish.tilts
    use = scene.models.get(tilts.model) if tilts else None
    if tilts is None or use is None or lighting.is_grounded:
        return LEVEL
    then, now = (
        scipy.spatial.transform.Rotation.from_euler("xyz", turn, degrees=True).as_matrix()
        for turn in (tilts.turn, use.placement.turn)
    )
    up = np.round(now @ then.T @ np.array(LEVEL), 9)
    x, y, z = (up / np.linalg.norm(up)).tolist()
    return (x, y, z) if z < 1.0 else LEVEL
