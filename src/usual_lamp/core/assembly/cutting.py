"""Meshes cut by a plane: what lies before it is taken away, and the solid is closed again where it was cut.

The name of a cut mesh says what it is made of, "<name>~nx,ny,nz,d", so that who reads meshes by name can make it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from usual_lamp.core.assembly.mesh import Mesh

Array = NDArray[np.float64]
Plane = tuple[float, float, float, float]
"""Unit normal and distance from the origin, mm: what has n · x > d is taken away."""
MARK = "~"
FINEST = 2e-7
"""Of a mesh's extent: points nearer than that are one. Single-precision numbers of that size are half as far apart."""


def cut_name(mesh: str, plane: Plane) -> str:
    """Names a mesh cut by a plane."""
    return mesh + MARK + ",".join(f"{value:.7g}" for value in plane)


def whole_name(name: str) -> str:
    """The name of the mesh that was cut; the name itself where nothing was."""
    return name.split(MARK, maxsplit=1)[0]


def plane_in(name: str) -> Plane | None:
    """The plane that a name says; None where nothing was cut. Raises ValueError when it is no plane."""
    if MARK not in name:
        return None
    nx, ny, nz, d = (float(value) for value in name.split(MARK)[1].split(","))
    if not (np.isfinite([nx, ny, nz, d]).all() and 0.99 < np.hypot(np.hypot(nx, ny), nz) < 1.01):
        raise ValueError(f"{name} names no plane")
    return nx, ny, nz, d


def cut_by_name(name: str, mesh_of: Callable[[str], Mesh]) -> Mesh:
    """Read a mesh that may be a cut one. Raises what `mesh_of` does, and ValueError for a name that is none."""
    plane = plane_in(name)
    mesh = mesh_of(whole_name(name))
    return mesh if plane is None else cut(mesh, plane)


def plane_within(plane: Plane, matrix: Array) -> Plane:
    """A plane of the world in the frame of a part that stands as the matrix (4 x 4, mm) says."""
    normal = np.array(plane[:3]) @ matrix[:3, :3]
    distance = plane[3] - float(np.array(plane[:3]) @ matrix[:3, 3])
    length = float(np.linalg.norm(normal))
    x, y, z = (float(v) for v in normal / length)
    return x, y, z, distance / length


class _Kept(NamedTuple):
    """Vertices, old ones and then those in the cut, and what is left of the triangles with the face of each."""

    positions: Array
    normals: Array
    coordinates: Array | None
    triangles: NDArray[np.int64]
    faces: NDArray[np.int64]
    in_plane: NDArray[np.bool_]


def cut(mesh: Mesh, plane: Plane) -> Mesh:
    """Return what lies behind a plane, with one more face, the last, that closes it; empty where nothing is left.

    Faces keep their numbers, also those of which nothing is left. Where the border of the cut is not closed, as in an
    open shell, nothing is put in.
    """
    kept = _behind(mesh, plane)
    points, caps, border = _cap(kept, plane)
    count = len(kept.positions)
    faces = len(mesh.face_ranges)
    triangles = np.concatenate([kept.triangles, caps + count])
    owner = np.concatenate([kept.faces, np.full(len(caps), faces)])
    order = np.argsort(owner, kind="stable")
    used, flat = np.unique(triangles[order], return_inverse=True)
    sizes = np.bincount(owner, minlength=faces + 1)
    coordinates = None
    if kept.coordinates is not None:
        coordinates = np.concatenate([kept.coordinates, points @ _across(plane).T])[used].astype(np.float32)
    return Mesh(
        positions=np.concatenate([kept.positions, points])[used].astype(np.float32),
        normals=np.concatenate([kept.normals, np.tile(plane[:3], (len(points), 1))])[used].astype(np.float32),
        triangles=flat.reshape(-1, 3).astype(np.uint32),
        face_ranges=np.stack([np.cumsum(sizes) - sizes, sizes], axis=1).astype(np.uint32),
        edges=np.concatenate([_edges_behind(mesh, plane), border]).astype(np.float32),
        coordinates=coordinates,
    )


def _heights(points: NDArray[np.floating], plane: Plane, extent: float) -> Array:
    """How far points (..., 3) lie before the plane, mm; what is as good as in it lies in it."""
    found = points.astype(np.float64) @ np.array(plane[:3]) - plane[3]
    found[np.abs(found) < FINEST * extent] = 0.0
    return np.asarray(found)


def _extent(mesh: Mesh) -> float:
    return float(np.abs(mesh.positions).max()) + 1e-9 if len(mesh.positions) else 1.0


def _behind(mesh: Mesh, plane: Plane) -> _Kept:
    """Triangles are clipped one by one; two that share a side share the point where it is cut."""
    height = _heights(mesh.positions, plane, _extent(mesh))
    triangles = mesh.triangles.astype(np.int64)
    face = np.repeat(np.arange(len(mesh.face_ranges)), mesh.face_ranges[:, 1])
    before = height[triangles] > 0
    flat = (height[triangles] == 0).all(axis=1)
    # What lies in the plane stays where the solid is behind it, and goes with what it bounds where that is before it.
    looks_out = mesh.normals[triangles].astype(np.float64).sum(axis=1) @ np.array(plane[:3]) > 0
    whole = ~before.any(axis=1) & (~flat | looks_out)
    crossing = before.any(axis=1) & (height[triangles] < 0).any(axis=1)
    some, sides = _clipped(triangles[crossing], before[crossing], height)
    start, end = sides[:, 0], sides[:, 1]
    share = (height[start] / (height[start] - height[end]))[:, None] if len(sides) else np.zeros((0, 1))

    def between(values: NDArray[np.float32]) -> Array:
        """Values at the vertices (V, n), and then at the new points (S, n), linear along the sides."""
        plain = values.astype(np.float64)
        return np.concatenate([plain, plain[start] + share * (plain[end] - plain[start])])

    normals = between(mesh.normals)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    return _Kept(
        between(mesh.positions),
        normals,
        None if mesh.coordinates is None else between(mesh.coordinates),
        np.concatenate([triangles[whole], some.triangles]),
        np.concatenate([face[whole], face[crossing][some.of]]),
        np.concatenate([height == 0, np.ones(len(sides), bool)]),
    )


class _Clipped(NamedTuple):
    triangles: NDArray[np.int64]
    of: NDArray[np.int64]
    """Which of the triangles that were clipped."""


def _clipped(
    triangles: NDArray[np.int64], before: NDArray[np.bool_], height: Array
) -> tuple[_Clipped, NDArray[np.int64]]:
    """What is left of triangles (T, 3) that cross the plane, and the sides (S, 2) on which new points lie; those are
    numbered on from the old ones. A corner in the plane counts as behind it."""
    vertices = len(height)
    two = before.sum(axis=1) == 2
    alone = np.where(two, (~before).argmax(axis=1), before.argmax(axis=1))
    turned = np.take_along_axis(triangles, (alone[:, None] + np.arange(3)) % 3, axis=1)
    a, b, c = turned.T
    pairs = np.stack([np.stack([a, b], axis=1), np.stack([a, c], axis=1)])
    sides, number = np.unique(np.sort(pairs.reshape(-1, 2), axis=1), axis=0, return_inverse=True)
    ab, ac = vertices + number.reshape(2, -1)
    # A point on a side whose end lies in the plane is that end.
    in_plane = height == 0
    ab, ac = np.where(in_plane[b] & ~two, b, ab), np.where(in_plane[c] & ~two, c, ac)
    place = np.arange(len(triangles))
    left = [(np.stack([a, ab, ac], axis=1)[two], place[two])]
    one = ~two
    left += [(np.stack([ab, b, c], axis=1)[one], place[one]), (np.stack([ab, c, ac], axis=1)[one], place[one])]
    found, of = (np.concatenate(parts) for parts in zip(*left, strict=True))
    solid = (found[:, 0] != found[:, 1]) & (found[:, 1] != found[:, 2]) & (found[:, 2] != found[:, 0])
    return _Clipped(found[solid], of[solid]), sides


def _across(plane: Plane) -> Array:
    """(2, 3): two unit vectors along the plane that turn counter-clockwise about its normal."""
    normal = np.array(plane[:3])
    helper = np.eye(3)[int(np.abs(normal).argmin())]
    u = np.cross(helper, normal)
    u /= np.linalg.norm(u)
    return np.stack([u, np.cross(normal, u)])


def _cap(kept: _Kept, plane: Plane) -> tuple[Array, NDArray[np.int64], Array]:
    """What closes the cut: points (P, 3) mm, triangles (T, 3) that look along the normal, and its border (E, 2, 3)."""
    nothing = np.zeros((0, 3)), np.zeros((0, 3), np.int64), np.zeros((0, 2, 3))
    sides = np.concatenate([kept.triangles[:, [0, 1]], kept.triangles[:, [1, 2]], kept.triangles[:, [2, 0]]])
    sides = sides[kept.in_plane[sides].all(axis=1)]
    if not len(sides):
        return nothing
    across = _across(plane)
    points = kept.positions @ across.T
    sides, points = _border(sides, points, FINEST * 4 * (float(np.abs(kept.positions).max()) + 1e-9))
    if len(sides) < 3:
        return nothing
    lines = shapely.unary_union(shapely.linestrings(points[sides]))
    cells = [cell for cell in shapely.polygonize([lines]).geoms if _winding(cell, points[sides])]
    if not cells:
        return nothing
    corners = np.concatenate(
        [
            shapely.get_coordinates(shapely.get_parts(shapely.constrained_delaunay_triangles(cell))).reshape(-1, 4, 2)
            for cell in cells
        ]
    )[:, :3]
    edges = corners[:, 1:] - corners[:, :1]
    clockwise = edges[:, 0, 0] * edges[:, 1, 1] - edges[:, 0, 1] * edges[:, 1, 0] < 0
    corners[clockwise] = corners[clockwise][:, ::-1]
    flat, number = np.unique(corners.reshape(-1, 2), axis=0, return_inverse=True)
    base = np.array(plane[:3]) * plane[3]
    return base + flat @ across, number.reshape(-1, 3).astype(np.int64), base + points[sides] @ across


def _border(sides: NDArray[np.int64], points: Array, apart: float) -> tuple[NDArray[np.int64], Array]:
    """The sides that only one triangle has once points within `apart` mm are one, turned as the cap has them."""
    used, flat = np.unique(sides, return_inverse=True)
    near = cKDTree(points[used]).query_pairs(apart, output_type="ndarray")
    links = coo_array((np.ones(len(near)), (near[:, 0], near[:, 1])), shape=(len(used), len(used)))
    count, group = connected_components(links, directed=False)
    places = np.zeros((count, 2))
    places[group] = points[used]
    ends = group[flat.reshape(-1, 2)][:, ::-1]
    ends = ends[ends[:, 0] != ends[:, 1]]
    # A side and its opposite cancel: there, two triangles meet already.
    same, which = np.unique(np.sort(ends, axis=1), axis=0, return_inverse=True)
    balance = np.bincount(which.ravel(), np.where(ends[:, 0] < ends[:, 1], 1.0, -1.0), len(same))
    left = np.flatnonzero(balance)
    return np.where((balance[left] > 0)[:, None], same[left], same[left][:, ::-1]), places


def _winding(cell: shapely.Polygon, border: Array) -> bool:
    """Whether the border (E, 2, 2) goes round a point of the cell (winding number by crossings of a ray)."""
    x, y = shapely.get_coordinates(shapely.point_on_surface(cell))[0]
    (ax, ay), (bx, by) = border[:, 0].T, border[:, 1].T
    side = (bx - ax) * (y - ay) - (x - ax) * (by - ay)
    up = (ay <= y) & (by > y) & (side > 0)
    down = (ay > y) & (by <= y) & (side < 0)
    return int(up.sum()) != int(down.sum())


def _edges_behind(mesh: Mesh, plane: Plane) -> Array:
    """The mesh's creases, (E, 2, 3) mm, as far as they lie behind the plane."""
    edges = mesh.edges.astype(np.float64)
    height = _heights(edges, plane, _extent(mesh))
    edges, height = edges[(height < 0).any(axis=1)], height[(height < 0).any(axis=1)]
    for end in (0, 1):
        out = height[:, end] > 0
        share = (height[out, end] / (height[out, end] - height[out, 1 - end]))[:, None]
        edges[out, end] += share * (edges[out, 1 - end] - edges[out, end])
    return edges
