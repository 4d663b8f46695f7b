"""Edges at which a mesh is not a closed surface: with one triangle only, or with three or more."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly.mesh import Mesh
from usual_lamp.core.assembly.smoothing import welded

MOST = 20_000
"""Edges of a kind that are told; more would only blacken the picture."""


@dataclass(frozen=True)
class OddEdges:
    """(N, 2, 3) mm each, in the mesh's frame."""

    open: NDArray[np.float64]
    crowded: NDArray[np.float64]


def odd_edges(mesh: Mesh) -> OddEdges:
    """Return the edges of a mesh that do not have exactly two sides."""
    points, triangles, _ = welded(mesh)
    sides = np.sort(np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    code, count = np.unique(sides[:, 0] * max(len(points), 1) + sides[:, 1], return_counts=True)

    def segments(which: NDArray[np.bool_]) -> NDArray[np.float64]:
        """(E, 2, 3) mm, the ends of the first MOST of some edges."""
        found = code[which][:MOST]
        return np.stack([points[found // len(points)], points[found % len(points)]], axis=1)

    return OddEdges(segments(count == 1), segments(count > 2))
