"""How far the triangles of a mesh lie from the surface they stand for, from exact points and exact normals.

Between two points of a curve whose normals are known, the arc bulges over the chord by
s = (L / 2) tan(theta / 4) with sin(theta / 2) = |(n2 - n1) . e| / 2, which is exact for a circle (handbook formula of
the circular segment). Inside a triangle the bulge is that of the cubic patch through the same points and normals
(Vlachos and others, "Curved PN triangles", 2001), taken at the middle.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly.mesh import Mesh

Array = NDArray[np.float64]


def deviation(mesh: Mesh) -> float:
    """The largest distance between triangles and surface, mm; 0 for an empty mesh."""
    return float(deviations(mesh).max(initial=0.0))


def deviations(mesh: Mesh) -> Array:
    """The largest distance of each triangle to the surface, (T,) mm.

    Corners of a triangle whose normals lie more than 90 degrees apart tell nothing of the surface and do not count.
    """
    points = mesh.positions.astype(np.float64)[mesh.triangles]
    normals = mesh.normals.astype(np.float64)[mesh.triangles]
    bulges = [_sagitta(points[:, i], points[:, (i + 1) % 3], normals[:, i], normals[:, (i + 1) % 3]) for i in range(3)]
    return np.asarray(np.max([*bulges, _middle(points, normals)], axis=0))


def _sagitta(p: Array, q: Array, m: Array, n: Array) -> Array:
    chord = q - p
    length = np.maximum(np.linalg.norm(chord, axis=1), 1e-30)
    along = np.abs(np.einsum("ij,ij->i", n - m, chord)) / length
    theta = 2 * np.arcsin(np.clip(along / 2, 0, 1))
    usable = np.einsum("ij,ij->i", m, n) > 0
    return np.where(usable, length / 2 * np.tan(theta / 4), 0.0)


def _middle(points: Array, normals: Array) -> Array:
    flat = points.mean(axis=1)
    around = np.zeros_like(flat)
    usable = np.ones(len(flat), bool)
    for i in range(3):
        for j in ((i + 1) % 3, (i + 2) % 3):
            here, there, normal = points[:, i], points[:, j], normals[:, i]
            lift = np.einsum("ij,ij->i", there - here, normal)[:, None] * normal
            around += (2 * here + there - lift) / 3 / 6
            usable &= np.einsum("ij,ij->i", normal, normals[:, j]) > 0
    # The patch's middle control point, and from it the patch's middle.
    bump = around + (around - flat) / 2
    middle = flat / 9 + around * 6 * 3 / 27 + bump * 6 / 27
    return np.where(usable, np.linalg.norm(middle - flat, axis=1), 0.0)
