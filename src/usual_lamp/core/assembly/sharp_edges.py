"""Sharp outward edges of a mesh, as the tracer needs them to round them off for the light.

Nothing is perfectly sharp that was made: an edge is broken or worn by a few tenths of a millimetre, and that is what
catches the light. No geometry is changed: each triangle names the edges that it or its corners lie on.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

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
    """Return the edges of a mesh whose positions (mm) and normals were moved to the given ones, without mirroring."""
    triangles = mesh.triangles.astype(np.int64)
    none = Rims(np.zeros((0, ROW), np.float32), np.full((len(triangles), AROUND), -1))
    sides = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    ordered = np.sort(sides, axis=1)
    _, first, counts = np.unique(ordered[:, 0] * len(positions) + ordered[:, 1], return_index=True, return_counts=True)
    border = first[counts == 1]
    if not len(border):
        return none
    one, two = _twins(positions, ordered[border])
    if not len(one):
        return none
    one, two = border[one], border[two]
    a, b = _side(positions, sides, one), _side(positions, sides, two)
    swapped = np.linalg.norm(a[0] - b[0], axis=1) > np.linalg.norm(a[0] - b[1], axis=1)
    n, m = np.stack(_side(normals, sides, one)), np.stack(_side(normals, sides, two))
    m[:, swapped] = m[::-1, swapped]
    between = np.einsum("ken,ken->ke", n, m)
    third = triangles[two % len(triangles)].sum(axis=1) - sides[two].sum(axis=1)
    away = positions[third] - a[0]
    length = np.linalg.norm(a[1] - a[0], axis=1)
    outward = np.einsum("en,en->e", n.mean(axis=0), away) < -1e-3 * np.linalg.norm(away, axis=1)
    keep = (between.max(axis=0) < LEAST) & (between.min(axis=0) > MOST) & outward & (length > 0)
    widest = OF_SMALLEST * float(np.ptp(positions, axis=0).min())
    rows = np.concatenate([_rows(a[0], a[1], m, widest)[keep], _rows(a[0], a[1], n, widest)[keep]])
    owners = np.concatenate([sides[one][keep], sides[two][keep]])
    return Rims(rows, _around(triangles, owners, len(positions)))


def _side(values: Floats, sides: NDArray[np.int64], which: NDArray[np.int64]) -> tuple[Floats, Floats]:
    """Of both ends of some sides."""
    return values[sides[which, 0]], values[sides[which, 1]]


def _twins(positions: Floats, border: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pairs of border sides that lie in the same place, as indices."""
    size = float(np.ptp(positions, axis=0).max()) or 1.0
    used, flat = np.unique(border, return_inverse=True)
    grid = np.round((positions[used].astype(np.float64) - positions.min(axis=0)) / (size * 1e-6)).astype(np.int64)
    _, place = np.unique((grid[:, 0] << 42) | (grid[:, 1] << 21) | grid[:, 2], return_inverse=True)
    ends = np.sort(place.reshape(-1)[flat.reshape(-1, 2)], axis=1)
    key = ends[:, 0] * (int(place.max()) + 1) + ends[:, 1]
    order = np.argsort(key, kind="stable")
    starts = np.flatnonzero(np.r_[True, np.diff(key[order]) != 0])
    pairs = starts[np.diff(np.r_[starts, len(order)]) == 2]
    return order[pairs], order[pairs + 1]


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
