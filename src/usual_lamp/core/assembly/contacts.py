"""Where two parts touch: faces of one that lie on faces of the other, nearer than their triangles can tell.

Parts that meet in one exact surface have it twice, each cut into triangles of its own, which pass through each other
by as much as they deviate from the surface. Which of the two a ray meets first is an accident there. `touching` finds
such faces, `offset_points` moves a face by a given way and takes its neighbours along, so that no crack opens.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly.deviation import deviations
from usual_lamp.core.assembly.instanced_rays import Instances, MeshScene
from usual_lamp.core.assembly.mesh import Mesh

Array = NDArray[np.float64]
ALONG = 0.8
"""Cosine between the normals of two triangles from which on they count as parts of one surface: twice the angular
tolerance of a coarse tessellation still does."""
MOST_POINTS = 200_000
"""That are looked at for two parts; of more, an even choice."""
FINEST, CELLS = 12, 12
"""A triangle is looked at in up to FINEST rows of points, that many that the region in question has CELLS across."""
FOLLOWS = 0.25
"""By which share of a face's way its free neighbours are drawn in at the rim, so that what it is pressed into shows
there, and not an accident."""
LONGEST = 3.0
"""Times the way asked for, that a corner of several faces moves at most."""


@dataclass(frozen=True)
class Touch:
    """One face that lies on another part."""

    face: int
    opposed: bool
    """The two look at each other; otherwise they are flush, and look the same way."""
    apart: float
    """How far the triangles of both may be from each other, mm."""


class Placed:
    """A mesh at its place, with what the search reads."""

    def __init__(self, mesh: Mesh, matrix: Array) -> None:
        """`matrix` is 4 x 4, mm, without shear."""
        self.mesh, self.matrix = mesh, matrix

    @cached_property
    def corners(self) -> Array:
        """(T, 3, 3) in the world, mm."""
        points = self.mesh.positions.astype(np.float64) @ self.matrix[:3, :3].T + self.matrix[:3, 3]
        return points[self.mesh.triangles]

    @cached_property
    def normals(self) -> Array:
        """(T, 3) of the flat triangles, outwards."""
        a, b, c = np.moveaxis(self.corners, 1, 0)
        cross = np.cross(b - a, c - a) * np.sign(np.linalg.det(self.matrix[:3, :3]))
        return np.asarray(cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-30))

    @cached_property
    def face_of(self) -> NDArray[np.int64]:
        """(T,) which face a triangle belongs to."""
        return np.repeat(np.arange(len(self.mesh.face_ranges)), self.mesh.face_ranges[:, 1])

    @cached_property
    def deviation(self) -> Array:
        """(T,) of the triangles from their surface, mm in the world."""
        scale = float(np.cbrt(abs(np.linalg.det(self.matrix[:3, :3]))))
        return deviations(self.mesh) * scale

    @cached_property
    def boxes(self) -> tuple[Array, Array]:
        """Lowest and highest corner of each triangle's box, (T, 3) each."""
        return self.corners.min(axis=1), self.corners.max(axis=1)

    @cached_property
    def rays(self) -> Instances:
        """What rays are asked of."""
        return Instances([(MeshScene(self.mesh), self.matrix)])


def touching(one: Placed, other: Placed, slack: float) -> list[Touch]:
    """The faces of `one` that lie on `other`, each once. `slack` (mm) is added to what their triangles deviate."""
    reach = float(one.deviation.max(initial=0.0) + other.deviation.max(initial=0.0)) + slack
    found: dict[tuple[int, bool], float] = {}
    mine = _within(one, other, reach)
    if mine.any():
        theirs = _within(other, one, reach, mine)
        for near, far, asked in ((one, other, mine), (other, one, theirs)):
            here, there, opposed, apart = _met(near, far, asked, reach, slack)
            for face, facing, way in zip((here if near is one else there), opposed, apart, strict=True):
                key = int(one.face_of[face]), bool(facing)
                found[key] = max(found.get(key, 0.0), float(way))
    return [Touch(face, opposed, apart) for (face, opposed), apart in sorted(found.items())]


def _within(one: Placed, other: Placed, reach: float, of_other: NDArray[np.bool_] | None = None) -> NDArray[np.bool_]:
    """(T,) triangles of `one` whose box meets that round (some of) the triangles of `other`."""
    low, high = other.boxes
    if of_other is not None:
        low, high = low[of_other], high[of_other]
    if not len(low):
        return np.zeros(len(one.corners), bool)
    a, b = one.boxes
    return np.asarray(((b >= low.min(axis=0) - reach) & (a <= high.max(axis=0) + reach)).all(axis=1))


def _met(
    near: Placed, far: Placed, asked: NDArray[np.bool_], reach: float, slack: float
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.bool_], Array]:
    """Triangles of both that lie on each other (one row for each point that says so), whether they look at each other,
    and how far apart they may be. Rays go through points of `near`, along its normal, from within outwards."""
    low, high = far.boxes
    triangle, points = _points(near, asked, low.min(axis=0) - reach, high.max(axis=0) + reach)
    normals = near.normals[triangle]
    hit, way = far.rays.hits(points - normals * reach, normals, np.full(len(points), 2 * reach))
    met = hit >= 0
    triangle, hit, way = triangle[met], hit[met], way[met]
    apart = near.deviation[triangle] + far.deviation[hit] + slack
    along = np.einsum("ij,ij->i", near.normals[triangle], far.normals[hit])
    close = (np.abs(way - reach) <= apart) & (np.abs(along) >= ALONG)
    return triangle[close], hit[close], along[close] < 0, apart[close]


def _points(placed: Placed, asked: NDArray[np.bool_], low: Array, high: Array) -> tuple[NDArray[np.int64], Array]:
    """Points on triangles, spread evenly over each and the closer the larger it is, and which triangle each is of."""
    cell = max(float(np.linalg.norm(high - low)) / CELLS, 1e-9)
    edges = np.linalg.norm(placed.corners - np.roll(placed.corners, 1, axis=1), axis=2).max(axis=1)
    rows = np.clip(np.ceil(edges / cell), 2, FINEST).astype(int)
    triangles, points = [], []
    for count in np.unique(rows[asked]):
        chosen = np.flatnonzero(asked & (rows == count))
        shares = _spread(int(count))
        points.append(np.einsum("pk,tkx->tpx", shares, placed.corners[chosen]).reshape(-1, 3))
        triangles.append(np.repeat(chosen, len(shares)))
    if not triangles:
        return np.zeros(0, np.int64), np.zeros((0, 3))
    triangle, point = np.concatenate(triangles), np.concatenate(points)
    inside = np.flatnonzero(((point >= low) & (point <= high)).all(axis=1))
    inside = inside[:: max(1, -(-len(inside) // MOST_POINTS))]
    return triangle[inside], point[inside]


def _spread(rows: int) -> Array:
    """Barycentric coordinates of the middles of the small triangles that `rows` cuts of each side make, (rows², 3)."""
    found = []
    for i in range(rows):
        for j in range(rows - i):
            found.append((i + 1 / 3, j + 1 / 3))
            if j < rows - i - 1:
                found.append((i + 2 / 3, j + 2 / 3))
    first, second = np.array(found).T / rows
    return np.stack([1 - first - second, first, second], axis=1)


def offset_points(mesh: Mesh, points: Array, normals: Array, offsets: dict[int, float]) -> Array:
    """The points of a mesh (V, 3) with some faces moved along their normals, by mm, face by face.

    Points at one place stay at one place. One of several moved faces goes where all of them are; free faces that
    meet a moved one at an angle are drawn in a little at that rim.
    """
    face_of = np.zeros(len(points), np.int64)
    face_of[mesh.triangles.ravel()] = np.repeat(np.arange(len(mesh.face_ranges)), 3 * mesh.face_ranges[:, 1])
    by_face = np.zeros(len(mesh.face_ranges))
    for face, distance in offsets.items():
        by_face[face] = distance
    way = by_face[face_of]
    # Adding zero makes one number of both zeros.
    _, place = np.unique(np.ascontiguousarray(mesh.positions + np.float32(0)).view("V12"), return_inverse=True)
    place = place.ravel()
    count = int(place.max(initial=-1)) + 1
    moved = _solved(place, normals, way, way != 0, np.zeros((count, 3)))
    most = np.zeros(count)
    np.maximum.at(most, place, np.abs(way))
    # Free faces at a right angle to a moved one; those that run on smoothly from it have to follow.
    along = np.einsum("ij,ij->i", normals, moved[place])
    free = (way == 0) & (most[place] > 0) & (np.abs(along) < most[place] / 2)
    wanted = np.where(free, -FOLLOWS * most[place], way)
    moved = _solved(place, normals, wanted, free | (way != 0), moved)
    length = np.linalg.norm(moved, axis=1)
    moved *= np.minimum(1.0, LONGEST * most / np.maximum(length, 1e-30))[:, None]
    return np.asarray(points + moved[place])


def _solved(place: NDArray[np.int64], normals: Array, wanted: Array, binding: NDArray[np.bool_], start: Array) -> Array:
    """Ways (places, 3) that come as near as can be to `wanted` along each binding normal, by repeated projection."""
    moved = start.copy()
    place, normals, wanted = place[binding], normals[binding], wanted[binding]
    share = 1 / np.maximum(np.bincount(place, minlength=len(start)), 1)
    for _ in range(24):
        lack = wanted - np.einsum("ij,ij->i", normals, moved[place])
        for axis in range(3):
            moved[:, axis] += share * np.bincount(place, lack * normals[:, axis], minlength=len(start))
    return moved
