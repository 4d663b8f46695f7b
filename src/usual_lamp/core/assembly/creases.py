"""Crease segments of a mesh: the lines a draughtsman would draw.

Faces do not share vertices, so the border of each face's triangulation is the tessellated B-rep edge. A segment
that two faces share is kept only where their normals differ; seams and tangent blends drop out.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

SMOOTH = np.cos(np.radians(12.0))


def crease_segments(
    positions: NDArray[np.float32], normals: NDArray[np.float32], triangles: NDArray[np.uint32]
) -> NDArray[np.float32]:
    """(E, 2, 3) mm, each crease once, from (V, 3), (V, 3) and (T, 3)."""
    if not len(triangles):
        return np.zeros((0, 2, 3), np.float32)
    sides = all_sides(triangles)
    border = sides[border_sides(sides, len(positions))]
    if not len(border):
        return np.zeros((0, 2, 3), np.float32)
    border, starts = by_place(positions, border)[1:]
    count = np.diff(np.r_[starts, len(border)])
    twin = np.minimum(starts + 1, len(border) - 1)
    cosine = np.einsum("eij,eij->ei", normals[border[starts]], normals[border[twin]]).min(axis=1)
    keep = (count != 2) | (cosine < SMOOTH)
    return np.asarray(positions[border[starts[keep]]], dtype=np.float32)


def all_sides(triangles: NDArray[np.uint32]) -> NDArray[np.int64]:
    """(3T, 2) vertices of the sides of triangles: the first of each, then the second, then the third."""
    return np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]).astype(np.int64)


def border_sides(sides: NDArray[np.int64], vertices: int) -> NDArray[np.int64]:
    """Which sides only one triangle has: those on the border of a face, since faces share no vertices."""
    ordered = np.sort(sides, axis=1)
    _, first, counts = np.unique(ordered[:, 0] * vertices + ordered[:, 1], return_index=True, return_counts=True)
    return np.asarray(first[counts == 1])


def by_place(
    positions: NDArray[np.float32], border: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """Sides (N, 2) put together by where they lie: their order, they themselves in that order, with their ends alike
    where they are in one place, and where each place starts."""
    size = float(np.ptp(positions, axis=0).max()) or 1.0
    used, flat = np.unique(border, return_inverse=True)
    grid = np.round((positions[used].astype(np.float64) - positions.min(axis=0)) / (size * 1e-6)).astype(np.int64)
    _, place = np.unique((grid[:, 0] << 42) | (grid[:, 1] << 21) | grid[:, 2], return_inverse=True)
    ends = place.reshape(-1)[flat.reshape(-1, 2)]
    alike = np.where((ends[:, 0] > ends[:, 1])[:, None], border[:, ::-1], border)
    ends = np.sort(ends, axis=1)
    key = ends[:, 0] * (int(place.max()) + 1) + ends[:, 1]
    order = np.argsort(key, kind="stable")
    return order, alike[order], np.flatnonzero(np.r_[True, np.diff(key[order]) != 0])
