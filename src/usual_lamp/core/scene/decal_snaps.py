"""What a decal that is moved over its face snaps to: the face's middle and edges, holes, and the decals beside it.

All is told along the decal's own width and height as it lies before it is turned, in mm from where its middle is now;
on a cylinder or a cone by arc length.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import combinations
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.circles import circle_through
from usual_lamp.core.assembly.creases import all_sides, border_sides
from usual_lamp.core.scene.decal import Decal
from usual_lamp.core.scene.wrapping import OUT_OF_ROUND, axis_of, slope_of, unrolled

Array = NDArray[np.float64]
LEAST_CORNERS = 6
"""Of a hole: fewer are taken for a polygon."""
IN_PLANE = 0.999
"""Cosine of the angle between the faces of two decals that count as beside each other."""
MOST_BESIDE = 40
"""Decals that are looked at; with more, every place would be near one."""


class SnapLine(BaseModel):
    """A line across the face that a decal stops at."""

    at: float = Field(description="mm from the decal's middle as it lies")
    of: Literal["middle", "side"] = Field(description="what of the decal stops there")
    what: str = Field(description="what it is, in words")


class Snaps(BaseModel):
    """Lines along the decal's width (`across`) and along its height (`along`)."""

    across: list[SnapLine] = []
    along: list[SnapLine] = []


def snaps(mesh: Mesh, face: int, decal: Decal, others: Iterable[Decal]) -> Snaps:
    """What a decal on a face of a part snaps to; `others` are the decals of the same part. Raises IndexError for a
    face that the part does not have."""
    first, count = (int(v) for v in mesh.face_ranges[face])
    triangles = mesh.triangles[first : first + count]
    used, compact = np.unique(triangles, return_inverse=True)
    flat = _flat(decal, mesh.positions[used].astype(np.float64))
    low, high = flat.min(axis=0), flat.max(axis=0)
    holes = list(_circles(flat, compact.reshape(-1, 3).astype(np.uint32)))
    beside = [_box(decal, other) for other in _beside(decal, others)]
    found: list[list[SnapLine]] = []
    for axis in (0, 1):
        lines = [_line((low[axis] + high[axis]) / 2, "middle", "middle of the face")]
        lines += [_line(end, "side", "edge of the face") for end in (low[axis], high[axis])]
        lines += [_line(hole[axis], "middle", "middle of a round edge") for hole in holes]
        for name, middle, half in beside:
            lines.append(_line(middle[axis], "middle", f"middle of {name}"))
            lines += [_line(middle[axis] + sign * half[axis], "side", f"edge of {name}") for sign in (-1, 1)]
        lines += [_line(at, "middle", "even spacing") for at in _even([box[1] for box in beside], axis)]
        found.append(lines)
    return Snaps(across=found[0], along=found[1])


def _line(at: float, of: Literal["middle", "side"], what: str) -> SnapLine:
    return SnapLine(at=round(float(at), 4), of=of, what=what)


def _axes(decal: Decal, turned: bool = False) -> Array:
    """(3, 3) right, up and out of a decal, unit and square."""
    return decal.plain.axes(turned)


def _flat(decal: Decal, points: Array) -> Array:
    """(N, 2) mm along the width and the height from the decal's middle."""
    axes, center = _axes(decal), np.array(decal.center)
    if decal.wrap is not None:
        points = unrolled(points, center, axes, decal.wrap)
    return np.asarray((points - center) @ axes[:2].T)


def _circles(flat: Array, triangles: NDArray[np.uint32]) -> Iterator[Array]:
    """Middles of the closed borders of a face that are circles, (2,) mm."""
    sides = all_sides(triangles)
    border = sides[border_sides(sides, len(flat))]
    if not len(border):
        return
    links = coo_array((np.ones(len(border)), border.T), shape=(len(flat), len(flat)))
    loops = connected_components(links, directed=False)[1]
    for loop in np.unique(loops[border]):
        points = flat[np.flatnonzero(loops == loop)]
        if len(points) < LEAST_CORNERS:
            continue
        middle, radius, off = circle_through(points)
        ways = np.sort(np.arctan2(*(points - middle).T))
        gap = np.diff(np.r_[ways, ways[0] + 2 * np.pi]).max()
        if off <= OUT_OF_ROUND * radius and gap < np.pi / 2:
            yield middle


def _beside(decal: Decal, others: Iterable[Decal]) -> list[Decal]:
    """Those that lie in the decal's plane, or on its cylinder or cone."""
    found = []
    for other in others:
        if not other.on or other.waits or other.part != decal.part or (other.wrap is None) != (decal.wrap is None):
            continue
        if _lies_off(decal, other) <= max(decal.depth, other.depth) and _looks_alike(decal, other):
            found.append(other)
    return found[:MOST_BESIDE]


def _lies_off(decal: Decal, other: Decal) -> float:
    """mm by which the middle of another decal lies off the surface that a decal was laid on."""
    axes, center, middle = _axes(decal), np.array(decal.center), np.array(other.center)
    if decal.wrap is not None:
        middle = unrolled(middle, center, axes, decal.wrap)[0]
    return float(abs((middle - center) @ axes[2]))


def _looks_alike(decal: Decal, other: Decal) -> bool:
    """Whether two decals lie in parallel planes, or round one axis."""
    if decal.wrap is None or other.wrap is None:
        return bool(_axes(other)[2] @ _axes(decal)[2] > IN_PLANE)
    point, axis = axis_of(np.array(decal.center), _axes(decal), decal.wrap)
    its_point, its_axis = axis_of(np.array(other.center), _axes(other), other.wrap)
    off = its_point - point
    off = off - axis * (off @ axis)
    return bool(abs(axis @ its_axis) > IN_PLANE and np.linalg.norm(off) < OUT_OF_ROUND * abs(decal.wrap.radius))


def _box(decal: Decal, other: Decal) -> tuple[str, Array, Array]:
    """Name, middle and half extent of another decal along the width and height of this one, mm."""
    middle = _flat(decal, np.array(other.center)[None])[0]
    right, up, _ = _axes(decal)
    width_way = _axes(other, turned=True)[0]
    along, across = abs(width_way @ right), abs(width_way @ up)
    if decal.wrap is not None and other.wrap is not None:
        # Round an axis the two frames lie at different angles: what is along the slope tells how it is turned.
        share = abs(width_way @ slope_of(_axes(other), other.wrap))
        rest = float(np.sqrt(max(0.0, 1 - share**2)))
        along, across = (rest, share) if decal.wrap.along == "up" else (share, rest)
    w, h = other.width / 2, other.height / 2
    return other.name, middle, np.array([w * along + h * across, w * across + h * along])


def _even(middles: list[Array], axis: int) -> Iterator[float]:
    """Where a third stands in line with two others at equal distances: between them, or beyond either."""
    for a, b in combinations(middles, 2):
        apart = abs(b - a)
        if apart[axis] <= apart[1 - axis]:
            continue
        yield from ((a[axis] + b[axis]) / 2, 2 * a[axis] - b[axis], 2 * b[axis] - a[axis])
