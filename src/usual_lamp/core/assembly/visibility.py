"""Which parts can be seen: from outside in any direction, or from given viewpoints. By rays on the real triangles.

Two questions, the cheap one first. A sweep of rays from outside finds nearly everything that shows. What the sweep
missed might be small or lie deep in a slot, so points on its own surface then look outwards: one free line of sight
is enough. A part is only called unseen when both fail. Clear parts let lines of sight through.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly.instanced_rays import Instances, MeshScene
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
        shared = {id(part.mesh): part.mesh for part in parts}
        boxes = {key: _box(mesh) for key, mesh in shared.items()}
        meshes = {key: MeshScene(mesh) for key, mesh in shared.items()}
        placed = [(meshes[id(part.mesh)], part.matrix) for part in parts]
        ends = [boxes[id(part.mesh)] @ part.matrix[:3, :3].T + part.matrix[:3, 3] for part in parts]
        corners = np.concatenate(ends or [np.zeros((1, 3))])
        self.low, self.high = corners.min(axis=0), corners.max(axis=0)
        self.radius = max(float(np.linalg.norm(self.high - self.low)) / 2, 1e-6)
        opaque = [index for index, part in enumerate(parts) if not part.clear]
        self.all = Instances(placed)
        self.opaque = self.all if len(opaque) == len(parts) else Instances([placed[index] for index in opaque])
        self.numbers = np.array(opaque, np.int64)
        """Of the opaque parts, among all."""

    def from_outside(self) -> set[int]:
        """Numbers of the parts that show from some direction."""
        seen: set[int] = set()
        for direction in spread(DIRECTIONS):
            seen |= self.first_from(-direction, GRID)
        return seen | {part for part in self._missed(seen) if self._looks_out(part)}

    def first_from(self, direction: Array, count: int) -> set[int]:
        """Numbers of the parts that parallel rays meet first which come from a direction (unit, from the parts to the
        viewer), `count` by `count` of them."""
        return self._first(*self._parallel(direction, count))

    def shares_from(self, direction: Array, count: int) -> dict[int, float]:
        """How much of the picture each part has that `first_from` would name: shares of what shows, clear parts as if
        they were opaque."""
        met = self.all.first(*self._parallel(direction, count))
        numbers, counts = np.unique(met[met >= 0], return_counts=True)
        return dict(zip(numbers.tolist(), (counts / max(counts.sum(), 1)).tolist(), strict=True))

    def _parallel(self, direction: Array, count: int) -> tuple[Array, Array]:
        """Origins and directions of `count` by `count` rays that come from a direction over all that is there."""
        across, up = _frame(-direction)
        steps = (np.arange(count) + 0.5) / count * 2 - 1
        u, v = (grid.ravel()[:, None] for grid in np.meshgrid(steps, steps))
        middle = (self.low + self.high) / 2
        origins = middle + direction * 2 * self.radius + self.radius * (u * across + v * up)
        return origins, np.broadcast_to(-direction, origins.shape)

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
        seen = set(np.unique(found[found >= 0]).tolist())
        if self.opaque is not self.all:
            behind = self.opaque.first(origins, directions)
            seen |= set(self.numbers[np.unique(behind[behind >= 0])].tolist())
        return seen

    def _missed(self, seen: set[int]) -> list[int]:
        return [number for number, part in enumerate(self.parts) if number not in seen and len(part.mesh.triangles)]

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


def _frame(direction: Array) -> tuple[Array, Array]:
    helper = np.eye(3)[np.argmin(np.abs(direction))]
    across = np.cross(direction, helper)
    across /= np.linalg.norm(across)
    return across, np.cross(direction, across)


def _box(mesh: Mesh) -> Array:
    """Corners of the box around a mesh, none of an empty one."""
    if not len(mesh.positions):
        return np.zeros((0, 3))
    low, high = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
    return np.asarray(np.where([[(i >> k) & 1 for k in range(3)] for i in range(8)], high, low), np.float64)


def in_one_place(parts: Sequence[tuple[str, Array]]) -> list[list[int]]:
    """Groups of parts with the same mesh (named by its hash) in the same place, each in the given order."""
    groups: dict[tuple[str, bytes], list[int]] = {}
    # A thousandth of a millimetre and of a degree are the same place; a negative zero is none of its own.
    places = np.round(np.array([matrix[:3].ravel() for _, matrix in parts]), 3) + 0.0
    for index, (mesh, _) in enumerate(parts):
        groups.setdefault((mesh, places[index].tobytes()), []).append(index)
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
