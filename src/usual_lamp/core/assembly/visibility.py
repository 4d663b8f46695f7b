"""Which parts can be seen: from outside in any direction, or from given viewpoints. By rays on the real triangles.

Two questions, the cheap one first. A sweep of rays from outside finds nearly everything that shows. What the sweep
missed might be small or lie deep in a slot, so points on its own surface then look outwards: one free line of sight
is enough. A part is only called unseen when both fail. Clear parts let lines of sight through.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from usual_lamp.core.assembly.mesh import Mesh
from usual_lamp.core.assembly.outline import spread

Array = NDArray[np.float64]
DIRECTIONS, GRID = 64, 128
POINTS, ROUNDS = 400, (2, 14, 80)
"""On each part that the sweep missed: points looked from, and directions looked in, round after round."""


@dataclass(frozen=True)
class Placed:
    """A part in the review: its mesh, its place (4 x 4, mm), and whether one can see through it."""

    mesh: Mesh
    matrix: Array
    clear: bool


@dataclass(frozen=True)
class Viewpoint:
    """A camera, for those who know nothing of cameras."""

    origins: Array
    """(N, 3) where the rays of the sweep begin, mm."""
    directions: Array
    """(N, 3) unit."""
    toward: Callable[[Array], tuple[Array, Array, NDArray[np.bool_]]]
    """From points to unit directions towards the eye, distances, and whether the point lies in the frame."""


class Sight:
    """The shown parts, ready to be looked at."""

    def __init__(self, parts: Sequence[Placed]) -> None:
        self.parts = parts
        self.spots: dict[tuple[int, int], Array] = {}
        self.points = [_world(part) for part in parts]
        self.triangles = [part.mesh.triangles.astype(np.int64) for part in parts]
        every = np.concatenate(self.points) if self.points else np.zeros((0, 3))
        self.low = every.min(axis=0) if len(every) else np.zeros(3)
        self.high = every.max(axis=0) if len(every) else np.zeros(3)
        self.radius = max(float(np.linalg.norm(self.high - self.low)) / 2, 1e-6)
        self.all = _Scene(self.points, self.triangles, range(len(parts)))
        opaque = [index for index, part in enumerate(parts) if not part.clear]
        self.opaque = self.all if len(opaque) == len(parts) else _Scene(self.points, self.triangles, opaque)

    def from_outside(self) -> set[int]:
        """Numbers of the parts that show from some direction."""
        seen: set[int] = set()
        middle = (self.low + self.high) / 2
        for direction in spread(DIRECTIONS):
            across, up = _frame(direction)
            steps = (np.arange(GRID) + 0.5) / GRID * 2 - 1
            u, v = (grid.ravel()[:, None] for grid in np.meshgrid(steps, steps))
            origins = middle - direction * 2 * self.radius + self.radius * (u * across + v * up)
            seen |= self._first(origins, np.broadcast_to(direction, origins.shape))
        return seen | {part for part in self._missed(seen) if self._looks_out(part)}

    def _looks_out(self, part: int) -> bool:
        """Whether any of many points on a part sees out. A few looks from each come first: mostly they do."""
        points, random = self._on(part, POINTS), np.random.default_rng(5)
        for looks in ROUNDS:
            # Every point looks in directions of its own: together they find a slit that one set would miss.
            origins = np.repeat(points, looks, axis=0)
            directions = random.normal(size=origins.shape)
            directions /= np.linalg.norm(directions, axis=1, keepdims=True)
            if not self.opaque.blocked(origins + directions * self._off(), directions, None).all():
                return True
        return False

    def from_viewpoint(self, view: Viewpoint) -> set[int]:
        """Numbers of the parts of which something shows in the frame."""
        seen = self._first(view.origins, view.directions)
        for part in self._missed(seen):
            points = self._on(part, 4 * POINTS)
            directions, far, inside = view.toward(points)
            if not inside.any():
                continue
            points, directions, far = points[inside], directions[inside], far[inside]
            if not self.opaque.blocked(points + directions * self._off(), directions, far).all():
                seen.add(part)
        return seen

    def _first(self, origins: Array, directions: Array) -> set[int]:
        found = self.all.first(origins, directions)
        return found if self.opaque is self.all else found | self.opaque.first(origins, directions)

    def _missed(self, seen: set[int]) -> list[int]:
        return [part for part in range(len(self.points)) if part not in seen and len(self.triangles[part])]

    def _off(self) -> float:
        """How far a line of sight begins off its surface, mm: beyond what single precision blurs."""
        return self.radius * 2e-5

    def _on(self, part: int, count: int) -> Array:
        """Points spread evenly over a part's surface, the same each time and for all that share its mesh."""
        mesh, matrix = self.parts[part].mesh, self.parts[part].matrix
        spots = self.spots.get((id(mesh), count))
        if spots is None:
            spots = self.spots[id(mesh), count] = _spread_over(mesh, count)
        return np.asarray(spots @ matrix[:3, :3].T + matrix[:3, 3])


class _Scene:
    """Some of the parts in one Embree scene."""

    def __init__(self, points: list[Array], triangles: list[NDArray[np.int64]], parts: Sequence[int]) -> None:
        self.scene = EmbreeScene()
        self.parts = np.array(list(parts), np.int64)
        self.ends = np.cumsum([len(triangles[part]) for part in parts])
        if len(self.ends) and self.ends[-1]:
            starts = np.cumsum([0, *(len(points[part]) for part in parts)])
            corners = np.concatenate([points[part] for part in parts]).astype(np.float32)
            faces = np.concatenate([triangles[part] + start for part, start in zip(parts, starts, strict=False)])
            self.mesh = TriangleMesh(self.scene, corners, faces.astype(np.int32))
        self.empty = not (len(self.ends) and self.ends[-1])

    def first(self, origins: Array, directions: Array) -> set[int]:
        if self.empty:
            return set()
        hits = self.scene.run(origins.astype(np.float32), directions.astype(np.float32))
        hits = np.unique(hits[hits >= 0])
        return set(self.parts[np.unique(np.searchsorted(self.ends, hits, side="right"))].tolist())

    def blocked(self, origins: Array, directions: Array, far: Array | None) -> NDArray[np.bool_]:
        if self.empty:
            return np.zeros(len(origins), bool)
        reach = None if far is None else far.astype(np.float32)
        hits = self.scene.run(origins.astype(np.float32), directions.astype(np.float32), dists=reach, query="OCCLUDED")
        return np.asarray(hits >= 0)


def _frame(direction: Array) -> tuple[Array, Array]:
    helper = np.eye(3)[np.argmin(np.abs(direction))]
    across = np.cross(direction, helper)
    across /= np.linalg.norm(across)
    return across, np.cross(direction, across)


def _world(part: Placed) -> Array:
    return np.asarray(part.mesh.positions.astype(np.float64) @ part.matrix[:3, :3].T + part.matrix[:3, 3])


def in_one_place(parts: Sequence[tuple[str, Array]]) -> list[list[int]]:
    """Groups of parts with the same mesh (named by its hash) in the same place, each in the given order."""
    groups: dict[tuple[object, ...], list[int]] = {}
    for index, (mesh, matrix) in enumerate(parts):
        # A thousandth of a millimetre and of a degree are the same place.
        groups.setdefault((mesh, *np.round(matrix[:3].ravel(), 3).tolist()), []).append(index)
    return [group for group in groups.values() if len(group) > 1]


def _spread_over(mesh: Mesh, count: int) -> Array:
    """(count, 3) points on a mesh, as many on equal areas."""
    corners = mesh.positions.astype(np.float64)[mesh.triangles]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    random = np.random.default_rng(7)
    chosen = np.searchsorted(np.cumsum(areas), random.random(count) * areas.sum()).clip(0, len(areas) - 1)
    u, v = random.random((2, count, 1))
    flip = u + v > 1
    u, v = np.where(flip, 1 - u, u), np.where(flip, 1 - v, v)
    a, b, c = np.moveaxis(corners[chosen], 1, 0)
    return np.asarray(a + u * (b - a) + v * (c - a))
