"""A coarse stand-in for a mesh, for the desk while a large assembly is fetched or moves: points gathered in cells."""

from __future__ import annotations

import numpy as np

from usual_lamp.core.assembly.mesh import Mesh

CELLS = 28
"""Along the longest side of the box."""
SMALL = 400
"""Triangles up to which a mesh is its own stand-in."""


def coarse(mesh: Mesh) -> Mesh:
    """Points that share a cell, and look roughly the same way, become one; triangles that collapse go.

    After Rossignac and Borrel, "Multi-resolution 3D approximations" (1993). One face, no edges.
    """
    if len(mesh.triangles) <= SMALL:
        return _bare(mesh.positions, mesh.normals, mesh.triangles)
    low = mesh.positions.min(axis=0)
    cell = max(float(np.ptp(mesh.positions, axis=0).max()) / CELLS, 1e-9)
    place = np.floor((mesh.positions - low) / cell).astype(np.int64)
    # The main direction of the normal keeps the two sides of a thin wall, and the sides of an edge, apart.
    axis = np.abs(mesh.normals).argmax(axis=1)
    sign = mesh.normals[np.arange(len(axis)), axis] > 0
    code = ((place[:, 0] * 4096 + place[:, 1]) * 4096 + place[:, 2]) * 6 + axis * 2 + sign
    _, owner = np.unique(code, return_inverse=True)
    owner = owner.reshape(-1)
    count = np.bincount(owner)
    points, normals = (
        np.stack([np.bincount(owner, weights=values[:, k]) for k in range(3)], axis=1) / count[:, None]
        for values in (mesh.positions, mesh.normals)
    )
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-9)
    corners = owner[mesh.triangles]
    whole = (corners[:, 0] != corners[:, 1]) & (corners[:, 1] != corners[:, 2]) & (corners[:, 2] != corners[:, 0])
    kept = np.unique(np.sort(corners[whole], axis=1), axis=0, return_index=True)[1]
    return _bare(points, normals, corners[whole][np.sort(kept)])


def _bare(points: np.ndarray, normals: np.ndarray, triangles: np.ndarray) -> Mesh:
    return Mesh(
        points.astype(np.float32),
        normals.astype(np.float32),
        triangles.astype(np.uint32),
        np.array([[0, len(triangles)]], np.uint32),
        np.zeros((0, 2, 3), np.float32),
    )
