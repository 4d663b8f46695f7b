"""Where a decal lies when a spot of a part is clicked: upright to the view, and no larger than fits the face."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene.document import Triple

Array = NDArray[np.float64]
FITS = 0.6
"""Of what the face offers round the spot, that a new decal takes."""
LEAST_DEPTH, DEPTH = 0.3, 0.1
"""mm, and share of the size: how far it reaches in front of and behind its rectangle; curved faces need that."""


def placed(
    mesh: Mesh,
    face: int,
    matrix: Array,
    point: Array,
    normal: Array,
    view_up: Array,
    aspect: float,
    size: tuple[float, float] | None = None,
) -> dict[str, Triple | float]:
    """Center, right, up, width, height and depth of a decal, in the part's frame.

    `matrix` (4, 4) places the part; point (mm), normal and the view's up are in the world; `aspect` is width over
    height; a `size` (mm) is kept.
    """
    to_part = np.linalg.inv(matrix)
    center = (to_part @ np.r_[point, 1.0])[:3]
    out = matrix[:3, :3].T @ normal
    out /= np.linalg.norm(out)
    up = to_part[:3, :3] @ view_up
    up = up - out * (up @ out)
    if np.linalg.norm(up) < 1e-3 * np.linalg.norm(to_part[:3, :3] @ view_up):
        # Looked at from straight above: its top points away from the viewer, along an axis of the part.
        up = np.eye(3)[int(np.argmin(np.abs(out)))]
        up = up - out * (up @ out)
    up /= np.linalg.norm(up)
    right = np.cross(up, out)
    width, height = size or _fitting(_corners(mesh, face), center, right, up, aspect)
    depth = max(LEAST_DEPTH, DEPTH * max(width, height))
    return {
        "center": _triple(center),
        "right": _triple(right),
        "up": _triple(up),
        "width": width,
        "height": height,
        "depth": round(depth, 2),
    }


def _corners(mesh: Mesh, face: int) -> Array:
    """(N, 3) mm: what the face spans."""
    first, count = (int(v) for v in mesh.face_ranges[face])
    return mesh.positions[mesh.triangles[first : first + count].ravel()].astype(np.float64)


def _fitting(corners: Array, center: Array, right: Array, up: Array, aspect: float) -> tuple[float, float]:
    """Width and height, mm, with room on all sides; on a face that ends right here an eighth of its extent."""
    sides = []
    for axis in (right, up):
        along = (corners - center) @ axis
        free = min(float(along.max()), -float(along.min()))
        sides.append(2 * max(free, 0.12 * float(np.ptp(along))))
    width = FITS * min(sides[0], sides[1] * aspect)
    width = float(np.clip(width, 0.5, 1e4))
    return round(width, 2), round(max(width / aspect, 0.1), 2)


def _triple(vector: Array) -> Triple:
    x, y, z = (round(float(v), 6) for v in vector)
    return x, y, z
