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
    bulges = []
    all_agree = np.ones(len(points), bool)
    for i, j in ((0, 1), (1, 2), (2, 0)):
        agree = np.einsum("ij,ij->i", normals[:, i], normals[:, j]) > 0
        bulges.append(np.where(agree, _sagitta(points[:, j] - points[:, i], normals[:, j] - normals[:, i]), 0.0))
        all_agree &= agree
    bulges.append(np.where(all_agree, _middle(points, normals), 0.0))
    return np.asarray(np.max(bulges, axis=0))


def _sagitta(chord: Array, change: Array) -> Array:
    """Of an arc over chords (T, 3) whose normals change by so much from end to end."""
    length = np.maximum(np.linalg.norm(chord, axis=1), 1e-30)
    along = np.abs(np.einsum("ij,ij->i", change, chord)) / length
    theta = 2 * np.arcsin(np.clip(along / 2, 0, 1))
    return np.asarray(length / 2 * np.tan(theta / 4))


def _middle(points: Array, normals: Array) -> Array:
    """How far the middle of the patch lies off that of the triangle.

    The patch's control points on its edges are b = (2 p + q - ((q - p) . n) n) / 3 for each corner p with normal n and
    each other corner q. Their mean E and that V of the corners give the one within, E + (E - V) / 2. With the patch's
    weights at its middle all that is left of it is E - V, and of that the sum of ((V - p) . n) n over the corners, / 6.
    """
    ways = points.mean(axis=1, keepdims=True) - points
    lifts = np.einsum("tij,tij->ti", ways, normals)
    return np.asarray(np.linalg.norm(np.einsum("ti,tij->tj", lifts, normals), axis=1) / 6)
