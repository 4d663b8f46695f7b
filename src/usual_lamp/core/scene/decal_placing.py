"""Where a decal lies when a spot of a part is clicked: upright to the view, and no larger than fits the face."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.circles import circle_through
from usual_lamp.core.scene.frozen import Triple
from usual_lamp.core.scene.picture_on_part import Wrapped

Array = NDArray[np.float64]
OUT_OF_ROUND = 0.02
"""Of the radius, that corners of a round face may lie off its cylinder."""
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
    snap: bool = True,
) -> dict[str, Any]:
    """Center, right, up, width, height and depth of a decal, in the part's frame.

    `matrix` (4, 4) places the part; point (mm), normal and the view's up are in the world; `aspect` is width over
    height; a `size` (mm) is kept. With `snap` it stands along the axis of the review that is nearest to the view's
    up. On a round face it is wrapped, along its axis; one that would go more than half round, as on the rounding of
    an edge, lies flat on it.
    """
    if snap:
        view_up = _upright(normal, view_up)
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
    corners, wrap = _corners(mesh, face), None
    around = round_face(mesh, face)
    if around is not None:
        turned = _turned_to(around, center, out, up, right)
        goes_round = size and (size[0] if turned[4][1] == "up" else size[1])
        if not goes_round or goes_round <= np.pi * around.radius:
            center, out, up, right, wrap = turned
            corners = unrolled(corners, center, out, up, right, wrap)
    width, height = size or _fitting(corners, center, right, up, aspect)
    depth = max(LEAST_DEPTH, DEPTH * max(width, height))
    return {
        "center": _triple(center),
        "right": _triple(right),
        "up": _triple(up),
        "width": width,
        "height": height,
        "depth": round(depth, 2),
        "wrap": wrap and {"radius": wrap[0], "along": wrap[1]},
    }


def spot_facing(mesh: Mesh, matrix: Array, way: Array) -> tuple[int, Array, Array]:
    """The face of a part that shows most area towards a direction of the world: its number, the middle of that area
    (mm) and its normal. Raises LookupError where none looks that way."""
    corners = mesh.positions[mesh.triangles].astype(np.float64) @ matrix[:3, :3].T + matrix[:3, 3]
    areas = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
    shown = np.where(areas @ way > 0.5 * np.linalg.norm(areas, axis=1), areas @ way, 0.0)
    first = mesh.face_ranges[:, 0]
    face = int(np.argmax(np.add.reduceat(shown, first))) if len(first) else 0
    start, count = (int(v) for v in mesh.face_ranges[face]) if len(first) else (0, 0)
    shown, corners, areas = (values[start : start + count] for values in (shown, corners, areas))
    if not count or shown.sum() <= 0:
        raise LookupError("no face looks that way")
    middles = corners.mean(axis=1)
    wanted = shown @ middles / shown.sum()
    # On a curved face the middle of the area lies off it: the triangle beside it does not.
    lit = np.flatnonzero(shown)
    nearest = lit[np.linalg.norm(middles[lit] - wanted, axis=1).argmin()]
    normal = areas[nearest] / np.linalg.norm(areas[nearest])
    return face, wanted - normal * (normal @ (wanted - middles[nearest])), normal


@dataclass(frozen=True)
class Round:
    """The cylinder that a face is a part of, mm, in the part's frame."""

    point: Array
    axis: Array
    radius: float
    outward: bool


def round_face(mesh: Mesh, face: int) -> Round | None:
    """The cylinder that a face lies on, by its corners and normals; None for any other face."""
    first, count = (int(v) for v in mesh.face_ranges[face])
    used = np.unique(mesh.triangles[first : first + count])
    points, normals = mesh.positions[used].astype(np.float64), mesh.normals[used].astype(np.float64)
    # On a cylinder no normal has a share along the axis; on a plane they do not spread at all.
    spread, ways = np.linalg.eigh(normals.T @ normals / max(len(normals), 1))
    if len(used) < 6 or spread[0] > 1e-4 or spread[1] < 0.01:
        return None
    axis, across = ways[:, 0], ways[:, 1:]
    flat = points @ across
    middle, radius, off = circle_through(flat)
    if radius < 1e-3 or off > OUT_OF_ROUND * radius:
        return None
    outward = float(((normals @ across) * (flat - middle)).sum()) > 0
    return Round(across @ middle, axis, radius, outward)


def _turned_to(
    around: Round, center: Array, out: Array, up: Array, right: Array
) -> tuple[Array, Array, Array, Array, tuple[float, Wrapped]]:
    """Center, out, up and right of a decal on a cylinder, its height or its width along the axis, as is nearer; and how
    it is wrapped: a negative radius inside of a bore."""
    along: Wrapped = "up" if abs(up @ around.axis) >= abs(right @ around.axis) else "right"
    axis = around.axis * np.sign((up if along == "up" else right) @ around.axis or 1.0)
    arm = center - around.point
    arm = arm - around.axis * (arm @ around.axis)
    arm /= np.linalg.norm(arm)
    center = center + arm * (around.radius - (center - around.point) @ arm)
    out = arm if around.outward else -arm
    up = axis if along == "up" else np.cross(out, axis)
    radius = around.radius if around.outward else -around.radius
    return center, out, up, np.cross(up, out), (round(radius, 4), along)


def unrolled(points: Array, center: Array, out: Array, up: Array, right: Array, wrap: tuple[float, Wrapped]) -> Array:
    """Points (N, 3) of a cylinder, mm, laid flat into the decal's plane by arc length; `wrap` is the radius, negative
    inside of a bore, and the direction that lies along the axis."""
    radius, along = wrap
    side, axis = (right, up) if along == "up" else (up, right)
    moved = points - center
    angle = np.arctan2(moved @ side, np.sign(radius) * (moved @ out + radius))
    return np.asarray(center + np.outer(abs(radius) * angle, side) + np.outer(moved @ axis, axis))


def _upright(normal: Array, view_up: Array) -> Array:
    """The axis of the review, laid into the face, that is nearest to the view's up: a label leans only when asked."""

    def flat(way: Array) -> Array:
        """What of a direction lies in the face."""
        return way - normal * (way @ normal) / (normal @ normal)

    seen = flat(view_up)
    if np.linalg.norm(seen) < 1e-3:
        return view_up
    seen = seen / np.linalg.norm(seen)
    axes = [flat(sign * axis) for axis in np.eye(3) for sign in (1, -1)]
    flattened = [axis / np.linalg.norm(axis) for axis in axes if np.linalg.norm(axis) > 0.5]
    nearest: Array = max(flattened, key=lambda axis: float(axis @ seen))
    return nearest


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
