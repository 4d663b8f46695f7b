"""The floor at a hit: a matt body in the backdrop's colour under a mirror lobe that fades outwards."""

from __future__ import annotations

from dataclasses import dataclass

from usual_lamp.core.scene.ground import FLOOR_REACH
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface import microfacet

FLOOR_IOR = 1.45
REFLECTION_FADES = 0.9
"""Radii above the floor from which on it reflects nothing: what stands on it is mirrored at its foot."""


@dataclass
class FloorNumbers:
    """What is the same for every hit, opaque; lengths in mm."""

    albedo: mi.Color3f
    """Sends back the backdrop's colour where it is unshadowed."""
    center: mi.Point2f
    radius: mi.Float
    height: mi.Float
    reflection: mi.Float
    roughness: mi.Float

    @staticmethod
    def of(inputs: TraceInputs, albedo: mi.Color3f) -> FloorNumbers:
        """Return the numbers of a scene's floor."""
        x, y, _ = inputs.center
        finish = inputs.lighting.floor_finish
        found = (x, y, inputs.radius, inputs.floor_height, finish.reflection, finish.roughness)
        x, y, *more = (dr.opaque(mi.Float, float(value)) for value in found)
        return FloorNumbers(albedo, mi.Point2f(x, y), *more)

    def mirrored(self, point: mi.Point3f) -> mi.Float:
        """Share of its reflection that a point above the floor has in it."""
        return 1 - smoothstep(0.0, REFLECTION_FADES, (point.z - self.height) / self.radius)


class Floor:
    """What the floor does with light, per lane."""

    def __init__(self, numbers: FloorNumbers, ray: mi.Ray3f, point: mi.Point3f, on_floor: mi.Bool) -> None:
        self.numbers, self.albedo, self.on_floor = numbers, numbers.albedo, on_floor
        far = dr.norm(mi.Point2f(point.x, point.y) - numbers.center) / numbers.radius
        cos = dr.clip(dr.abs(ray.d.z), 0.0, 1.0)
        self.opacity, self.mirror, self.alpha = dr.if_stmt(
            (far, cos),
            on_floor,
            self._lobes,
            lambda f, c: (mi.Float(1.0), mi.Float(0.0), mi.Float(1.0)),
            label="floor",
        )

    def _lobes(self, far: mi.Float, cos: mi.Float) -> tuple[mi.Float, mi.Float, mi.Float]:
        fresnel, _ = microfacet.dielectric(cos, FLOOR_IOR)
        opacity = 1 - smoothstep(0.35 * FLOOR_REACH, 0.95 * FLOOR_REACH, far)
        mirror = self.numbers.reflection * fresnel * (1 - smoothstep(1.2, 3.5, far))
        near = self.numbers.roughness
        rough = dr.lerp(near, dr.minimum(near + 0.4, 1.0), smoothstep(0.6, 2.5, far))
        return opacity, mirror, microfacet.alpha(rough).x

    def sample(self, pick: mi.Float, v: mi.Point2f, view: mi.Vector3f) -> tuple[mi.Vector3f, mi.Color3f, mi.Bool]:
        """Direction, weight and whether the mirror lobe was taken."""

        def draw(v: mi.Point2f, view: mi.Vector3f) -> tuple[mi.Vector3f, mi.Color3f]:
            """Sampled direction (unit, world) and weight, from one of the two lobes."""
            wi = mi.Vector3f(view.x, view.y, dr.maximum(view.z, 1e-4))
            h = microfacet.sample_visible(wi, mi.Vector2f(self.alpha), v)
            glint = 2.0 * dr.dot(wi, h) * h - wi
            diffuse = mi.warp.square_to_cosine_hemisphere(v)
            weight = dr.select(mirrored, mi.Color3f(dr.select(glint.z > 0, 1.0, 0.0)), self.albedo)
            return dr.select(mirrored, glint, diffuse), weight

        mirrored = pick < self.mirror
        direction, weight = dr.if_stmt(
            (v, view), self.on_floor, draw, lambda v, view: (view, dr.zeros(mi.Color3f)), label="floor sample"
        )
        return direction, weight, mirrored


def smoothstep(low: float, high: float, x: mi.Float) -> mi.Float:
    """Return 0 below `low`, 1 above `high`, and a smooth cubic between."""
    t = dr.clip((x - low) / (high - low), 0.0, 1.0)
    return t * t * (3 - 2 * t)
