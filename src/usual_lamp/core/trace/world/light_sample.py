"""A direction towards light, as every kind of light gives it."""

from __future__ import annotations

from dataclasses import dataclass

from usual_lamp.core.light.surroundings import LUMINANCE
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.world.running_sums import RunningSums

__all__ = ["LUMINANCE", "LightSample", "TrianglePoint"]


@dataclass
class LightSample:
    """Directions towards light: unit vector, distance, radiance (cd/m², at nominal levels), density per steradian."""

    direction: mi.Vector3f
    distance: mi.Float
    radiance: mi.Color3f
    density: mi.Float
    group: mi.UInt32
    """See `light_groups`."""
    mirrored: mi.Bool
    """Whether shiny surfaces show it."""

    def as_tuple(self) -> tuple[mi.Vector3f, mi.Float, mi.Color3f, mi.Float, mi.UInt32, mi.Bool]:
        """Its fields in order: the state of a branch."""
        return self.direction, self.distance, self.radiance, self.density, self.group, self.mirrored


@dataclass
class TrianglePoint:
    """A point drawn on one of many triangles: its number, its corners, and the point (mm)."""

    index: mi.UInt32
    a: mi.Point3f
    b: mi.Point3f
    c: mi.Point3f
    place: mi.Point3f

    @staticmethod
    def drawn(powers: RunningSums, corners: mi.Float, point: mi.Point2f, active: mi.Bool) -> TrianglePoint:
        """Draw a triangle by its power, and a point evenly on it."""
        index, first, _ = powers.inverted(mi.UInt32(0), point.x, active)
        a, b, c = (dr.gather(mi.Point3f, corners, index * 3 + k, active) for k in range(3))
        root = dr.sqrt(first)
        place = a * (1 - root) + b * (root * (1 - point.y)) + c * (root * point.y)
        return TrianglePoint(index, a, b, c, place)
