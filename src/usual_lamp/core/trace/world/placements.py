"""Numbers of each shape in the scene: its part's frame, the way it was machined, the pictures on it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.trace.engine import dr, mi, settled
from usual_lamp.core.trace.surface.table import Four

ROW = 6
TURNED_SHARE, ROUND = 0.25, 0.2
"""A part counts as turned about an axis when at least this share of its area faces away from the axis, as evenly
round as this (the mean of the azimuth's second to sixth harmonics)."""


@dataclass(frozen=True)
class Machining:
    """Which way brushing runs: round an axis on a turned part, along it on others. In the part's frame, mm."""

    axis: tuple[float, float, float]
    center: tuple[float, float, float]
    turned: bool


def machining(mesh: Mesh) -> Machining:
    """Told from the triangles: turned parts have their area spread evenly round one axis."""
    a, b, c = np.moveaxis(mesh.positions[mesh.triangles].astype(np.float64), 1, 0)
    cross = np.cross(b - a, c - a) / 2
    area = np.linalg.norm(cross, axis=1)
    low, high = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
    center = _vector((low + high) / 2)
    if area.sum() > 0:
        normals = cross / np.maximum(area, 1e-12)[:, None]
        _, axes = np.linalg.eigh(np.einsum("i,ij,ik->jk", area, normals, normals))
        for axis in axes.T:
            if _turned_about(axis, normals, area):
                return Machining(_vector(axis), center, True)
    longest = np.zeros(3)
    longest[int(np.argmax(high - low))] = 1.0
    return Machining(_vector(longest), center, False)


def _turned_about(axis: NDArray[np.float64], normals: NDArray[np.float64], area: NDArray[np.float64]) -> bool:
    side = np.cross(axis, [1.0, 0, 0] if abs(axis[0]) < 0.7 else [0, 1.0, 0])
    side /= np.linalg.norm(side)
    azimuth = np.arctan2(normals @ np.cross(axis, side), normals @ side)
    facing = area * (np.abs(normals @ axis) < 0.5)
    if facing.sum() < TURNED_SHARE * area.sum():
        return False
    return all(abs((facing * np.exp(1j * k * azimuth)).sum()) < ROUND * facing.sum() for k in (2, 3, 4, 5, 6))


def _vector(values: NDArray[np.floating]) -> tuple[float, float, float]:
    x, y, z = (float(v) for v in values)
    return x, y, z


@dataclass(frozen=True)
class PlacedShape:
    """One shape: its number, part to world, machining, and its pictures (first row and count)."""

    shape: int
    matrix: tuple[float, ...]
    machining: Machining
    part: int
    """Its place in the trace inputs."""
    pictures: tuple[int, int] = (0, 0)


class PlacedShapes:
    """Rows by the shape's registry number."""

    def __init__(self, placements: list[PlacedShape], last: int = 0) -> None:
        """Room is made up to the number `last`: what stands beside the parts, as floor and cards, is looked up too, and
        wears no pictures."""
        self.rows = settled(_rows(placements, last))

    def _four(self, shape: mi.ShapePtr, k: int, active: mi.Bool) -> Four:
        return dr.gather(Four, self.rows, dr.reinterpret_array(mi.UInt32, shape) * ROW + k, active)

    def pictures(self, shape: mi.ShapePtr, active: mi.Bool) -> tuple[mi.UInt32, mi.UInt32]:
        """Return the first texture of a shape and how many there are."""
        four = self._four(shape, 5, active)
        return mi.UInt32(four[0]), mi.UInt32(four[1])

    def part(self, shape: mi.ShapePtr, active: mi.Bool) -> mi.UInt32:
        """Return the place of a shape's part in the trace inputs."""
        return mi.UInt32(self._four(shape, 5, active)[2])

    def to_part(self, shape: mi.ShapePtr, point: mi.Point3f, active: mi.Bool) -> mi.Point3f:
        """From the world into the part's frame, mm."""
        rows = (self._four(shape, k, active) for k in range(3))
        return mi.Point3f(*(r[0] * point.x + r[1] * point.y + r[2] * point.z + r[3] for r in rows))

    def turn_to_part(self, shape: mi.ShapePtr, way: mi.Vector3f, active: mi.Bool) -> mi.Vector3f:
        """Return a direction in the part's frame."""
        rows = (self._four(shape, k, active) for k in range(3))
        return mi.Vector3f(*(r[0] * way.x + r[1] * way.y + r[2] * way.z for r in rows))

    def turn_to_world(self, shape: mi.ShapePtr, way: mi.Vector3f, active: mi.Bool) -> mi.Vector3f:
        """The other way, for gradients: by the transpose of the inverse."""
        x, y, z = (self._four(shape, k, active) for k in range(3))
        return mi.Vector3f(*(x[k] * way.x + y[k] * way.y + z[k] * way.z for k in range(3)))

    def turned(self, si: mi.SurfaceInteraction3f, active: mi.Bool) -> tuple[mi.Bool, mi.Vector3f, mi.Vector3f]:
        """Whether the part that is hit is turned, its axis (unit), and the way to the hit from its middle."""
        four, center = self._four(si.shape, 3, active), self._four(si.shape, 4, active)
        axis = mi.Vector3f(four[0], four[1], four[2])
        arm = mi.Vector3f(si.p) - mi.Vector3f(center[0], center[1], center[2])
        return four[3] > 0.5, dr.normalize(axis), arm

    def brushing(self, si: mi.SurfaceInteraction3f, active: mi.Bool) -> mi.Vector3f:
        """Direction of the brushing at a hit, before it is laid into the surface (not tangent)."""
        turned, axis, arm = self.turned(si, active)
        return dr.select(turned, dr.cross(axis, arm), axis)


def _rows(placements: list[PlacedShape], last: int) -> NDArray[np.float64]:
    """The table, (shapes, 4 * ROW)."""
    ids = [p.shape for p in placements]
    rows = np.zeros((max([*ids, last]) + 1, 4 * ROW))
    if placements:
        matrices = np.array([p.matrix for p in placements]).reshape(-1, 4, 4)
        axes = np.einsum("nij,nj->ni", matrices[:, :3, :3], np.array([p.machining.axis for p in placements]))
        centers = np.einsum("nij,nj->ni", matrices[:, :3, :3], np.array([p.machining.center for p in placements]))
        rows[ids, :12] = np.linalg.inv(matrices)[:, :3].reshape(-1, 12)
        rows[ids, 12:15] = axes / np.maximum(np.linalg.norm(axes, axis=1, keepdims=True), 1e-12)
        rows[ids, 15] = [p.machining.turned for p in placements]
        rows[ids, 16:19] = centers + matrices[:, :3, 3]
        rows[ids, 20:22] = [p.pictures for p in placements]
        rows[ids, 22] = [p.part for p in placements]
    return rows


def shape_id(shape: mi.Shape) -> int:
    """Registry number, as hits carry it."""
    return int(dr.reinterpret_array(mi.UInt32, mi.ShapePtr(shape))[0])
