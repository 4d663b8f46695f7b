"""The attitudes in which a body rests on a table by itself: faces of its convex hull that its weight stands over."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray

Array = NDArray[np.float64]
FLAT = np.radians(0.5)
"""Hull triangles whose normals differ by less are one face."""


@dataclass(frozen=True)
class Rest:
    """An orientation in which a body stands by itself."""

    down: tuple[float, float, float]
    """Unit direction that points to the table, in the body's frame."""
    share: float
    """Of all directions in which it may be dropped, how many lead here if it does not roll: the face's solid angle
    seen from the centre of mass, over 4 pi."""
    tilt: float
    """Degrees by which it can be tilted before it tips over."""


def resting_attitudes(points: Array, center_of_mass: Array) -> list[Rest]:
    """Steadiest first. `points` (N, 3) in mm; empty for a body without extent.

    After Goldberg and others, "Part pose statistics" (1999), without rolling.
    """
    try:
        hull = scipy.spatial.ConvexHull(points)
    except scipy.spatial.QhullError:
        return []
    normals, offsets = hull.equations[:, :3], hull.equations[:, 3]
    # Where the weight meets the plane of each side: only where that lies on the hull can the body stand.
    feet = center_of_mass - (normals @ center_of_mass + offsets)[:, None] * normals
    beside = (feet @ normals.T + offsets).max(axis=1)
    stands = beside < 2 * FLAT * np.ptp(points, axis=0).max()
    rests, taken = [], np.zeros(len(normals), bool)
    for first in range(len(normals)):
        if taken[first] or not stands[first]:
            continue
        group = np.flatnonzero((normals @ normals[first] > np.cos(FLAT)) & ~taken)
        taken[group] = True
        down, height = normals[first], -(normals[first] @ center_of_mass + offsets[first])
        polygon = hull.points[np.unique(hull.simplices[group])]
        margin = _margin(polygon, center_of_mass, down)
        if height > 0 and margin > 0:
            angles = sum(_solid_angle(hull.points[hull.simplices[k]] - center_of_mass) for k in group)
            share = float(angles / (4 * np.pi))
            tilt = float(np.degrees(np.arctan2(margin, height)))
            rests.append(Rest(tuple(float(v) for v in down), share, tilt))  # type: ignore[arg-type]
    return sorted(rests, key=lambda rest: -rest.share)


def _margin(polygon: Array, center: Array, down: Array) -> float:
    """Distance inside the face at which the weight stands, mm; negative when it stands outside."""
    axes = np.linalg.svd(down[None])[2][1:]
    flat = (polygon - center) @ axes.T
    try:
        edges = scipy.spatial.ConvexHull(flat).equations
    except scipy.spatial.QhullError:
        return -1.0
    # Distance of the origin, where the weight is, from each edge.
    return float((-edges[:, 2]).min())


def _solid_angle(triangle: Array) -> float:
    """Of a triangle seen from the origin (van Oosterom and Strackee, 1983)."""
    a, b, c = triangle
    la, lb, lc = (float(np.linalg.norm(v)) for v in triangle)
    volume = abs(float(np.linalg.det(triangle)))
    return 2 * float(np.arctan2(volume, la * lb * lc + (a @ b) * lc + (a @ c) * lb + (b @ c) * la))
