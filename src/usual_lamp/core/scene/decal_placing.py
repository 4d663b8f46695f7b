"""Where a decal lies when a spot of a part is clicked: upright to the view, and no larger than fits the face."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene.decal import Wrap
from usual_lamp.core.scene.frozen import Triple
from usual_lamp.core.scene.wrapping import round_face, turned_to, unrolled

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
        its_center, its_right, its_up, its_wrap = turned_to(around, center, out, up, right)
        goes_round = size and (size[0] if its_wrap.along == "up" else size[1])
        if not goes_round or goes_round <= np.pi * abs(its_wrap.radius):
            center, right, up, wrap = its_center, its_right, its_up, its_wrap
            corners = unrolled(corners, center, np.stack([right, up, np.cross(right, up)]), wrap)
    width, height = size or _fitting(corners, center, (right, up), aspect, wrap)
    depth = max(LEAST_DEPTH, DEPTH * max(width, height))
    return {
        "center": _triple(center),
        "right": _triple(right),
        "up": _triple(up),
        "width": width,
        "height": height,
        "depth": round(depth, 2),
        "wrap": wrap and wrap.model_dump(),
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


def _fitting(
    corners: Array, center: Array, axes: tuple[Array, Array], aspect: float, wrap: Wrap | None
) -> tuple[float, float]:
    """Width and height, mm, with room on all sides; on a face that ends right here an eighth of its extent, and round
    an axis no more than is seen at once."""
    sides = []
    for axis in axes:
        along = (corners - center) @ axis
        free = min(float(along.max()), -float(along.min()))
        sides.append(2 * max(free, 0.12 * float(np.ptp(along))))
    if wrap is not None:
        across = 0 if wrap.along == "up" else 1
        sides[across] = min(sides[across], float(np.pi * abs(wrap.radius)))
    width = FITS * min(sides[0], sides[1] * aspect)
    width = float(np.clip(width, 0.5, 1e4))
    return round(width, 2), round(max(width / aspect, 0.1), 2)


def _triple(vector: Array) -> Triple:
    x, y, z = (round(float(v), 6) for v in vector)
    return x, y, z
