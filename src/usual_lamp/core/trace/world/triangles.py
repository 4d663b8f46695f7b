"""What a ray has hit, read from tables of our own.

Mitsuba finds the triangle. Asking its shapes for all else is one call for each shape that occurs in a packet of rays,
and each shape is recorded anew whenever a kernel is; so all triangles of a world lie in two arrays, and every lane
reads them alike. What occurs many times is there once, with the places of its occurrences beside it. Triangles of what
is hidden stay, within reason, so that showing it again reads nothing.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Mapping

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.trace.engine import aligned, dr, mi, settled
from usual_lamp.core.trace.surface.table import Four
from usual_lamp.core.trace.world.geometry import Piece
from usual_lamp.core.trace.world.rounding import Edges

FourNumbers = dr.llvm.ad.Array4u
VERTEX, FACE = 8, 4
"""Numbers of a vertex (position, u, normal, v) and of a triangle (three vertices, its edges, see `rounding`)."""


class Triangles:
    """Triangles of pieces by name, and the look-up of what was hit."""

    def __init__(self) -> None:
        self._places: dict[Hashable, tuple[slice, slice]] = {}
        """Vertices and triangles of each piece."""
        self._edges = Edges()
        self._write([], [])

    def __contains__(self, name: Hashable) -> bool:
        return name in self._places

    def count(self, names: Iterable[Hashable]) -> int:
        """Triangles of these pieces together."""
        return sum(self._places[name][1].stop - self._places[name][1].start for name in names)

    def names(self) -> list[Hashable]:
        """Return the names of all pieces held."""
        return list(self._places)

    def corners(self, name: Hashable) -> NDArray[np.float32]:
        """Of a piece's triangles, (T, 3, 3) mm."""
        return self._vertices[self._faces[self._places[name][1], :3], :3]

    def hold(self, kept: Iterable[Hashable], added: Mapping[Hashable, Piece]) -> None:
        """Hold what is named of what is held, and these new pieces."""
        held = {name: self._places[name] for name in kept}
        if len(held) == len(self._places) and not added:
            return
        vertices = [self._vertices[place[0]] for place in held.values()]
        faces = [_from_zero(self._faces[place[1]], place[0].start) for place in held.values()]
        for piece in added.values():
            vertices.append(_packed(piece))
            faces.append(np.c_[piece.triangles, np.zeros(len(piece.triangles), np.uint32)].astype(np.uint32))
        self._edges.hold(held, {name: piece.rims for name, piece in added.items()})
        self._places = {}
        first, start = 0, 0
        for name, points, triangles in zip([*held, *added], vertices, faces, strict=True):
            self._places[name] = slice(first, first + len(points)), slice(start, start + len(triangles))
            triangles[:, :3] += np.uint32(first)
            triangles[:, 3] = self._edges.entries(name, len(triangles))
            first, start = first + len(points), start + len(triangles)
        self._write(vertices, faces)

    def _write(self, vertices: list[NDArray[np.float32]], faces: list[NDArray[np.uint32]]) -> None:
        """Lay all into one array each; a row of zeros at the end, since there must be something to read from."""
        self._vertices = aligned(np.concatenate([*vertices, np.zeros((1, VERTEX), np.float32)]))
        self._faces = aligned(np.concatenate([*faces, np.zeros((1, FACE), np.uint32)]))
        self.vertices, self.faces = mi.Float(self._vertices.ravel()), mi.UInt32(self._faces.ravel())
        dr.make_opaque(self.vertices, self.faces)

    def shown(self, shapes: list[int], names: list[Hashable], frames: dict[int, tuple[float, ...]]) -> None:
        """Say which piece each shape of the scene is, and where those stand (matrix, mm) that are instances of one."""
        first = np.zeros(max([*shapes, 0]) + 1, np.uint32)
        first[shapes] = [self._places[name][1].start for name in names]
        self.first = mi.UInt32(aligned(first))
        dr.make_opaque(self.first)
        self.frames = None
        if frames:
            rows = np.tile(np.eye(4, dtype=np.float32)[:3].ravel(), (len(first), 1))
            rows[list(frames)] = np.array(list(frames.values()), np.float32)[:, :12]
            self.frames = settled(rows)

    def at(
        self, near: mi.PreliminaryIntersection3f, active: mi.Bool, mapped: bool, rounding: mi.Float | None = None
    ) -> mi.SurfaceInteraction3f:
        """The hit: distance, point, geometric and shading normal, shape; with `mapped` also coordinates on pictures
        and how the point moves with them. What was missed is not valid, all else of it is undefined. With `rounding`
        (mm) sharp edges shine as if they were rounded off."""
        hit = active & near.is_valid()
        shape = dr.reinterpret_array(mi.UInt32, near.shape)
        start = dr.gather(mi.UInt32, self.first, shape, hit)
        face = dr.gather(FourNumbers, self.faces, start + near.prim_index, hit)
        low = [dr.gather(Four, self.vertices, 2 * face[k], hit) for k in range(3)]
        high = [dr.gather(Four, self.vertices, 2 * face[k] + 1, hit) for k in range(3)]
        points = [mi.Vector3f(four[0], four[1], four[2]) for four in low]
        normals = [mi.Vector3f(four[0], four[1], four[2]) for four in high]
        b, c = near.prim_uv.x, near.prim_uv.y
        a = 1 - b - c
        frame = Frame(self.frames, shape, hit)
        si = dr.zeros(mi.SurfaceInteraction3f)
        si.t = dr.select(hit, near.t, dr.inf)
        p = points[0] * a + points[1] * b + points[2] * c
        si.p = mi.Point3f(frame.point(p))
        along, beside = points[1] - points[0], points[2] - points[0]
        n = dr.cross(along, beside)
        size = dr.norm(n)
        n /= size
        si.n = mi.Normal3f(dr.normalize(frame.way(n)))
        shading = normals[0] * a + normals[1] * b + normals[2] * c
        if rounding is not None:
            sides = dr.norm(beside - along), dr.norm(beside), dr.norm(along)
            nearest = size * dr.minimum(a / sides[0], dr.minimum(b / sides[1], c / sides[2]))
            shading = self._edges.rounded(dr.normalize(shading), p, nearest, face[3], rounding / frame.scale(), hit)
        si.sh_frame.n = mi.Normal3f(dr.normalize(frame.way(shading)))
        si.shape, si.prim_index = near.shape, near.prim_index
        if mapped:
            uv = [mi.Point2f(low[k][3], high[k][3]) for k in range(3)]
            si.uv = uv[0] * a + uv[1] * b + uv[2] * c
            du, dv = _moved(along, beside, uv[1] - uv[0], uv[2] - uv[0], mi.Normal3f(n))
            si.dp_du, si.dp_dv = frame.way(du), frame.way(dv)
        return si


class Frame:
    """Where the instance stands that a ray has hit; of triangles in the world, and where there are no instances, as
    they are."""

    def __init__(self, rows: mi.Float | None, shape: mi.UInt32, active: mi.Bool) -> None:
        self.rows = None if rows is None else [dr.gather(Four, rows, 3 * shape + k, active) for k in range(3)]

    def way(self, way: mi.Vector3f) -> mi.Vector3f:
        """Return a direction in the world. Frames are rigid, so that normals turn like any other."""
        if self.rows is None:
            return way
        return mi.Vector3f(*(r[0] * way.x + r[1] * way.y + r[2] * way.z for r in self.rows))

    def scale(self) -> mi.Float:
        """By how much the instance is larger than what it is one of."""
        if self.rows is None:
            return mi.Float(1.0)
        r = self.rows[0]
        return dr.norm(mi.Vector3f(r[0], r[1], r[2]))

    def point(self, point: mi.Vector3f) -> mi.Vector3f:
        """Return a point in the world."""
        if self.rows is None:
            return point
        return self.way(point) + mi.Vector3f(*(r[3] for r in self.rows))


def _moved(
    along: mi.Vector3f, beside: mi.Vector3f, uv_along: mi.Vector2f, uv_beside: mi.Vector2f, n: mi.Normal3f
) -> tuple[mi.Vector3f, mi.Vector3f]:
    """How the point moves with each coordinate; any two tangents where the coordinates do not tell."""
    area = uv_along.x * uv_beside.y - uv_along.y * uv_beside.x
    flat = area == 0
    scale = dr.rcp(dr.select(flat, 1.0, area))
    side, front = mi.coordinate_system(n)
    du = (along * uv_beside.y - beside * uv_along.y) * scale
    dv = (beside * uv_along.x - along * uv_beside.x) * scale
    return dr.select(flat, side, du), dr.select(flat, front, dv)


def _packed(piece: Piece) -> NDArray[np.float32]:
    positions, normals, coordinates = piece.positions, piece.normals, piece.coordinates
    found = np.zeros((len(positions), VERTEX), np.float32)
    found[:, :3], found[:, 4:7] = positions, normals
    if coordinates is not None:
        found[:, 3], found[:, 7] = coordinates.T
    return found


def _from_zero(faces: NDArray[np.uint32], first: int) -> NDArray[np.uint32]:
    own = faces.copy()
    own[:, :3] -= np.uint32(first)
    return own
