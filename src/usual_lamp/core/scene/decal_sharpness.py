"""How sharp a decal looks in a shot: how many pixels of the picture one pixel of the decal covers."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import Camera
from usual_lamp.core.scene.decal import Decal

SOFT = 1.2
"""Pixels of the picture that one of the decal covers, from which on it looks soft (common practice, no published
source: below, the picture's own pixels are the limit)."""


def pixels_covered(
    decal: Decal, matrix: NDArray[np.float64], camera: Camera, size: tuple[int, int], texels: tuple[int, int]
) -> float | None:
    """The larger of those across and along it, at its middle; None behind the camera. `matrix` places its part, `size`
    is the shot's and `texels` the decal's picture's, in pixels."""
    right, up, _ = decal.plain.axes()
    steps = np.array([right * decal.width / texels[0], up * decal.height / texels[1]])
    local = np.concatenate([[np.asarray(decal.center)], np.asarray(decal.center) + steps])
    world = local @ matrix[:3, :3].T + matrix[:3, 3]
    seen = camera.project(world, size[0] / size[1])
    if seen[:, 2].min() <= 0:
        return None
    moved = (seen[1:, :2] - seen[0, :2]) * np.array(size) / 2
    return float(np.linalg.norm(moved, axis=1).max())
