"""Sharp outward edges of a mesh, as the tracer needs them to round them off for the light.

Nothing is perfectly sharp that was made: an edge is broken or worn by a few tenths of a millimetre, and that is what
catches the light. No geometry is changed: each triangle names the edges that it or its corners lie on.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly.creases import all_sides, border_sides, by_place
from usual_lamp.core.assembly.mesh import Mesh

Floats = NDArray[np.float32]

LEAST, MOST = np.cos(np.radians(20.0)), np.cos(np.radians(120.0))
"""Cosines of the angles between the normals at an edge: flatter ones are blends, steeper ones are knives."""
OF_SMALLEST = 0.08
"""Of the smallest side of a part's box: no rounding is wider, so that small parts keep their form."""
ROW = 16
"""Numbers of an edge: start and length (mm), direction and greatest radius (mm), the other face's normals at both
ends and two that are spare."""
AROUND = 6
"""Edges of a triangle at most: two at each corner."""


class Rims(NamedTuple):
    """Edges, and which of them each triangle may have to round."""

    rows: Floats
    """(E, ROW), see there; one for each side of an edge."""
    around: NDArray[np.int64]
    """(T, AROUND) rows, -1 where there is none; those come last."""


def sharp_edges(mesh: Mesh, positions: Floats, normals: Floats) -> Rims:
    """Return the edges of a mesh whose positions (mm) and normals were moved to the given ones."""
    triangles = mesh.triangles.astype(np.int64)
    none = Rims(np.zeros((0, ROW), np.float32), np.full((len(triangles), AROUND), -1))
    sides = all_sides(mesh.triangles)
    border = border_sides(sides, len(positions))
    if not len(border):
        return none
    order, ends, starts = by_place(positions, sides[border])
    pair = starts[np.diff(np.r_[starts, len(order)]) == 2]
    if not len(pair):
        return none
    one, two = ends[pair], ends[pair + 1]
    start, end = positions[one].swapaxes(0, 1)
    n, m = normals[one].swapaxes(0, 1), normals[two].swapaxes(0, 1)
    beyond = border[order[pair + 1]]
    between = np.einsum("ken,ken->ke", n, m)
    third = triangles[beyond % len(triangles)].sum(axis=1) - two.sum(axis=1)
    away = positions[third] - start
    length = np.linalg.norm(end - start, axis=1)
    outward = np.einsum("en,en->e", n.mean(axis=0), away) < -1e-3 * np.linalg.norm(away, axis=1)
    keep = (between.max(axis=0) < LEAST) & (between.min(axis=0) > MOST) & outward & (length > 0)
    # By the part's own frame, so that it is the same however the part stands.
    scale = float(np.sqrt(positions.var(axis=0).sum() / max(mesh.positions.var(axis=0).sum(), 1e-12)))
    widest = OF_SMALLEST * scale * float(np.ptp(mesh.positions, axis=0).min())
    rows = np.concatenate([_rows(start, end, m, widest)[keep], _rows(start, end, n, widest)[keep]])
    owners = np.concatenate([one[keep], two[keep]])
    return Rims(rows, _around(triangles, owners, len(positions)))


def _rows(start: Floats, end: Floats, other: Floats, widest: float) -> Floats:
    rows = np.zeros((len(start), ROW), np.float32)
    way = end - start
    length = np.linalg.norm(way, axis=1)
    rows[:, :3], rows[:, 3] = start, length
    rows[:, 4:7], rows[:, 7] = way / np.maximum(length, 1e-12)[:, None], widest
    rows[:, 8:11], rows[:, 12:15] = other[0], other[1]
    return rows


def _around(triangles: NDArray[np.int64], owners: NDArray[np.int64], count: int) -> NDArray[np.int64]:
    """Rows at the corners of each triangle, each once. `owners` (E, 2) are the corners that a row lies between."""
    corner, row = owners.ravel(), np.repeat(np.arange(len(owners)), 2)
    order = np.argsort(corner, kind="stable")
    corner, row = corner[order], row[order]
    starts = np.flatnonzero(np.r_[True, np.diff(corner) != 0])
    nth = np.arange(len(corner)) - np.repeat(starts, np.diff(np.r_[starts, len(corner)]))
    at_corner = np.full((count, 2), -1)
    few = nth < 2
    at_corner[corner[few], nth[few]] = row[few]
    found = -np.sort(-at_corner[triangles].reshape(len(triangles), AROUND), axis=1)
    found[:, 1:][found[:, 1:] == found[:, :-1]] = -1
    return np.asarray(-np.sort(-found, axis=1))
