"""Faces and smooth normals of meshes that come as triangles: grouped where they meet smoothly, sharp at creases."""

from __future__ import annotations

import hashlib

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray

from usual_lamp.core.assembly.creases import crease_segments
from usual_lamp.core.assembly.mesh import Mesh
from usual_lamp.core.assembly.model import Face

Array = NDArray[np.float64]
CREASE = 30.0
"""Degrees."""
FLAT = np.cos(np.radians(0.05))
MOST_FACES = 2000
"""Above this many smooth groups a geometry is organic or torn: it is one face then."""


def smooth_faces(
    points: Array, triangles: NDArray[np.int64], crease: float = CREASE, corners: Array | None = None
) -> Mesh:
    """Triangles grouped where they meet smoothly; no vertex is shared between groups, normals are smooth within one.

    `crease` in degrees: neighbouring triangles that meet more sharply belong to different faces. `corners` (T, 3, 2)
    are the coordinates of each triangle's corners on its pictures: where they jump, vertices are kept apart, but the
    normals stay smooth.
    """
    a, b, c = (points[triangles[:, k]] for k in range(3))
    cross = np.cross(b - a, c - a)
    normals = cross / np.linalg.norm(cross, axis=1, keepdims=True)
    group = _groups(triangles, normals, float(np.cos(np.radians(crease))))
    order = np.argsort(group, kind="stable")
    triangles, cross, group = triangles[order], cross[order], group[order]
    corner_group = np.repeat(group, 3)
    code = corner_group * len(points) + triangles.ravel()
    used, flat = np.unique(code, return_inverse=True)
    flat = flat.reshape(-1, 3)
    positions, coordinates = points[used % len(points)], None
    summed = np.zeros((len(used), 3))
    weights = _angles(points, triangles)
    for k in range(3):
        np.add.at(summed, flat[:, k], cross / np.linalg.norm(cross, axis=1, keepdims=True) * weights[:, k, None])
    smooth = summed / np.maximum(np.linalg.norm(summed, axis=1, keepdims=True), 1e-12)
    if corners is not None:
        positions, smooth, flat, coordinates = apart(positions, smooth, flat, corners[order])
    counts = np.bincount(group)
    if len(counts) > MOST_FACES:
        counts = np.array([len(triangles)])
    ranges = np.stack([np.cumsum(counts) - counts, counts], axis=1)
    arrays = positions.astype(np.float32), smooth.astype(np.float32), flat.astype(np.uint32)
    return Mesh(*arrays, ranges.astype(np.uint32), crease_segments(*arrays), coordinates)


def apart(
    positions: Array, normals: Array, flat: NDArray[np.int64], corners: Array
) -> tuple[Array, Array, NDArray[np.int64], NDArray[np.float32]]:
    """Vertices split where the coordinates on the pictures differ."""
    on_picture = corners.reshape(-1, 2).astype(np.float32)
    places, place = np.unique(on_picture, axis=0, return_inverse=True)
    pairs, first, again = np.unique(
        flat.ravel() * len(places) + place.reshape(-1), return_index=True, return_inverse=True
    )
    owner = pairs // len(places)
    return positions[owner], normals[owner], again.reshape(-1, 3), on_picture[first]


def _groups(triangles: NDArray[np.int64], normals: Array, smoothest: float) -> NDArray[np.int64]:
    """Number of the smooth group of each triangle."""
    sides = np.sort(np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    owner = np.tile(np.arange(len(triangles)), 3)
    code = sides[:, 0] * (triangles.max() + 1) + sides[:, 1]
    order = np.argsort(code, kind="stable")
    code, owner = code[order], owner[order]
    starts = np.flatnonzero(np.r_[True, code[1:] != code[:-1]])
    pairs = starts[np.diff(np.r_[starts, len(code)]) == 2]
    one, two = owner[pairs], owner[pairs + 1]
    smooth = np.einsum("ij,ij->i", normals[one], normals[two]) > smoothest
    links = scipy.sparse.coo_matrix((np.ones(smooth.sum()), (one[smooth], two[smooth])), shape=(len(triangles),) * 2)
    return np.asarray(scipy.sparse.csgraph.connected_components(links, directed=False)[1], np.int64)


def _angles(points: Array, triangles: NDArray[np.int64]) -> Array:
    """Angle of each corner, radians: how much a triangle counts in the normal there."""
    found = []
    for k in range(3):
        here, one, two = (points[triangles[:, (k + j) % 3]] for j in range(3))
        u, v = one - here, two - here
        cos = np.einsum("ij,ij->i", u, v) / np.maximum(np.linalg.norm(u, axis=1) * np.linalg.norm(v, axis=1), 1e-30)
        found.append(np.arccos(np.clip(cos, -1, 1)))
    return np.stack(found, axis=1)


def describe_faces(mesh: Mesh) -> list[Face]:
    """Return a description of each face of a mesh: its area in mm² and centroid in mm."""
    a, b, c = np.moveaxis(mesh.positions[mesh.triangles].astype(np.float64), 1, 0)
    cross, middle = np.cross(b - a, c - a), (a + b + c) / 3
    faces = []
    for first, count in mesh.face_ranges.tolist():
        part = slice(first, first + count)
        area = np.linalg.norm(cross[part], axis=1) / 2
        mean = cross[part].sum(axis=0)
        mean /= max(float(np.linalg.norm(mean)), 1e-30)
        flat = (cross[part] @ mean >= 2 * area * FLAT).all()
        center = (middle[part] * area[:, None]).sum(axis=0) / area.sum()
        facts = f"{area.sum():.5g} {np.round(center, 3).tolist()} {count}"
        signature = hashlib.sha256(facts.encode()).hexdigest()[:16]
        kind = "plane" if flat else "free"
        place = tuple(center.tolist())
        faces.append(Face(kind=kind, signature=signature, area=float(area.sum()), center=place))
    return faces


def welded(mesh: Mesh) -> tuple[Array, NDArray[np.int64], Array | None]:
    """Points and triangles of a mesh with equal points merged again, and the corners' coordinates on its pictures."""
    points, place = np.unique(mesh.positions.astype(np.float64), axis=0, return_inverse=True)
    corners = None if mesh.coordinates is None else mesh.coordinates[mesh.triangles].astype(np.float64)
    return points, place.reshape(-1)[mesh.triangles.astype(np.int64)], corners


def corners_after(before: NDArray[np.int64], corners: Array, after: NDArray[np.int64]) -> Array:
    """(T, 3, 2) coordinates of the corners of triangles that were left out, reordered or turned over since.

    `after` holds triangles of `before`, in any order and either sense.
    """
    size = int(before.max()) + 1

    def names(triangles: NDArray[np.int64]) -> NDArray[np.int64]:
        """(T,) one number for the three vertices of a triangle, in whatever order."""
        low, middle, high = np.sort(triangles, axis=1).T
        return np.asarray((low * size + middle) * size + high)

    known, first = np.unique(names(before), return_index=True)
    source = first[np.searchsorted(known, names(after))]
    which = (before[source][:, None, :] == after[:, :, None]).argmax(axis=2)
    return np.take_along_axis(corners[source], which[:, :, None], axis=1)
