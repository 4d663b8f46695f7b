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
    sides = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]).astype(np.int64)
    ordered = np.sort(sides, axis=1)
    code = ordered[:, 0] * len(positions) + ordered[:, 1]
    _, first, counts = np.unique(code, return_index=True, return_counts=True)
    border = ordered[first[counts == 1]]
    if not len(border):
        return np.zeros((0, 2, 3), np.float32)

    size = float(np.ptp(positions, axis=0).max()) or 1.0
    grid = np.round(positions.astype(np.float64) / (size * 1e-6)).astype(np.int64)
    _, place = np.unique(grid, axis=0, return_inverse=True)
    ends = place.reshape(-1)[border]
    turned = ends[:, 0] > ends[:, 1]
    border[turned] = border[turned][:, ::-1]
    ends = np.sort(ends, axis=1)
    key = ends[:, 0] * (place.max() + 1) + ends[:, 1]

    order = np.argsort(key, kind="stable")
    border, key = border[order], key[order]
    starts = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
    count = np.diff(np.r_[starts, len(key)])
    twin = np.minimum(starts + 1, len(key) - 1)
    cosine = np.einsum("eij,eij->ei", normals[border[starts]], normals[border[twin]]).min(axis=1)
    keep = (count != 2) | (cosine < SMOOTH)
    return np.asarray(positions[border[starts[keep]]], dtype=np.float32)
