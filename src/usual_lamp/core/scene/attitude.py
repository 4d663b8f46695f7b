"""Turning and setting down a model: each step takes its placement to another one. z is up; lengths in mm."""

from __future__ import annotations

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray

from usual_lamp.core.scene.document import Placement

Array = NDArray[np.float64]


def placement_of(matrix: Array, pivot: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> Placement:
    """The placement with this pivot that has the given rigid 4 x 4 matrix."""
    with np.errstate(all="ignore"):
        turn = scipy.spatial.transform.Rotation.from_matrix(matrix[:3, :3]).as_euler(
            "xyz", degrees=True, suppress_warnings=True
        )
    shift = matrix[:3, :3] @ np.array(pivot) + matrix[:3, 3] - np.array(pivot)
    return Placement(shift=_rounded(shift), turn=_rounded(turn), pivot=pivot)


def _rounded(values: Array) -> tuple[float, float, float]:
    x, y, z = (round(float(value), 6) + 0.0 for value in values)
    return x, y, z


def turned_about(matrix: Array, rotation: Array, center: Array) -> Array:
    """A placement's matrix after a further rotation (3, 3) about a point."""
    step = np.eye(4)
    step[:3, :3] = rotation
    step[:3, 3] = center - rotation @ center
    return np.asarray(step @ matrix)


def quarter_turn(axis: int, degrees: float) -> Array:
    """Rotation about x (0), y (1) or z (2)."""
    return np.asarray(scipy.spatial.transform.Rotation.from_rotvec(np.eye(3)[axis] * np.radians(degrees)).as_matrix())


def turning(source: Array, target: Array) -> Array:
    """The smallest rotation that takes one direction to another; half a turn about a level axis when opposite."""
    a, b = source / np.linalg.norm(source), target / np.linalg.norm(target)
    axis, cosine = np.cross(a, b), float(a @ b)
    sine = float(np.linalg.norm(axis))
    if sine < 1e-9:
        if cosine > 0:
            return np.eye(3)
        level = np.cross(a, [0.0, 0.0, 1.0] if abs(a[2]) < 0.9 else [1.0, 0.0, 0.0])
        return np.asarray(
            scipy.spatial.transform.Rotation.from_rotvec(level / np.linalg.norm(level) * np.pi).as_matrix()
        )
    return np.asarray(scipy.spatial.transform.Rotation.from_rotvec(axis / sine * np.arctan2(sine, cosine)).as_matrix())


def set_down(matrix: Array, points: Array, floor: float) -> Array:
    """A placement's matrix shifted so that its lowest point stands on the floor. `points` (N, 3) as it places them."""
    lifted = matrix.copy()
    lifted[2, 3] += floor - float(points[:, 2].min())
    return lifted


def face_to_face(matrix: Array, normal: Array, center: Array, other_normal: Array, other_center: Array) -> Array:
    """A placement's matrix after its face (as it places it) was laid flat against another, middle on middle."""
    rotated = turned_about(matrix, turning(normal, -other_normal), center)
    rotated[:3, 3] += other_center - center
    return rotated
