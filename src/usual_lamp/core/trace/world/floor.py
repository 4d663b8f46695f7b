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
    axes: mi.Frame3f
    """Two directions along it, and its normal."""
    foot: mi.Point3f
    """Under the product's middle."""
    radius: mi.Float
    reflection: mi.Float
    roughness: mi.Float

    @staticmethod
    def of(inputs: TraceInputs, albedo: mi.Color3f) -> FloorNumbers:
        """Return the numbers of a scene's floor."""
        finish, floor = inputs.lighting.floor_finish, inputs.floor
        number = lambda value: dr.opaque(mi.Float, float(value))  # noqa: E731
        side, along, up = (mi.Vector3f(*(number(v) for v in axis)) for axis in floor.axes)
        foot = mi.Point3f(*(number(v) for v in floor.under(inputs.center)))
        more = (number(value) for value in (inputs.radius, finish.reflection, finish.roughness))
        return FloorNumbers(albedo, mi.Frame3f(side, along, up), foot, *more)

    def mirrored(self, point: mi.Point3f) -> mi.Float:
        """Share of its reflection that a point above the floor has in it."""
        return 1 - smoothstep(0.0, REFLECTION_FADES, dr.dot(point - self.foot, self.axes.n) / self.radius)


@dataclass
class Gloss:
    """What an appearance makes of a floor's mirror lobe, per lane."""

    normal: mi.Vector3f
    """With its relief."""
    roughness: mi.Float
    metalness: mi.Float
    color: mi.Color3f


class Floor:
    """What the floor does with light, per lane. Without a `gloss` it mirrors as its finish says."""

    def __init__(
        self,
        numbers: FloorNumbers,
        ray: mi.Ray3f,
        point: mi.Point3f,
        on_floor: mi.Bool,
        gloss: Gloss | None = None,
    ) -> None:
        self.numbers, self.albedo, self.on_floor, self.gloss = numbers, numbers.albedo, on_floor, gloss
        far = dr.norm(point - numbers.foot) / numbers.radius
        cos = dr.clip(dr.abs(dr.dot(ray.d, gloss.normal) if gloss else self.cosine(ray.d)), 0.0, 1.0)
        self.opacity, self.mirror, self.alpha = dr.if_stmt(
            (far, cos),
            on_floor,
            self._lobes,
            lambda f, c: (mi.Float(1.0), mi.Float(0.0), mi.Float(1.0)),
            label="floor",
        )

    def cosine(self, direction: mi.Vector3f) -> mi.Float:
        """Of a direction to the floor's normal."""
        return dr.dot(direction, self.numbers.axes.n)

    def _lobes(self, far: mi.Float, cos: mi.Float) -> tuple[mi.Float, mi.Float, mi.Float]:
        fresnel, _ = microfacet.dielectric(cos, FLOOR_IOR)
        near = self.numbers.roughness
        if self.gloss is not None:
            fresnel = dr.lerp(fresnel, dr.max(self.gloss.color), self.gloss.metalness)
            near = self.gloss.roughness
        opacity = 1 - smoothstep(0.35 * FLOOR_REACH, 0.95 * FLOOR_REACH, far)
        mirror = self.numbers.reflection * fresnel * (1 - smoothstep(1.2, 3.5, far))
        rough = dr.lerp(near, dr.minimum(near + 0.4, 1.0), smoothstep(0.6, 2.5, far))
        return opacity, mirror, microfacet.alpha(rough).x

    def sample(self, pick: mi.Float, v: mi.Point2f, view: mi.Vector3f) -> tuple[mi.Vector3f, mi.Color3f, mi.Bool]:
        """Direction, weight and whether the mirror lobe was taken."""

        def draw(v: mi.Point2f, view: mi.Vector3f) -> tuple[mi.Vector3f, mi.Color3f]:
            """Sampled direction (unit, world) and weight, from one of the two lobes."""
            wi = facets.to_local(view)
            wi.z = dr.maximum(wi.z, 1e-4)
            h = microfacet.sample_visible(wi, mi.Vector2f(self.alpha), v)
            glint = 2.0 * dr.dot(wi, h) * h - wi
            matt = self.numbers.axes.to_world(mi.warp.square_to_cosine_hemisphere(v))
            shine = facets.to_world(glint)
            rises = (glint.z > 0) & (self.cosine(shine) > 0)
            weight = dr.select(mirrored, dr.select(rises, color, 0.0), self.albedo)
            return dr.select(mirrored, shine, matt), weight

        mirrored = pick < self.mirror
        facets, color = self.numbers.axes, mi.Color3f(1.0)
        if self.gloss is not None:
            facets = mi.Frame3f(self.gloss.normal)
            shade = self.gloss.color / dr.maximum(dr.max(self.gloss.color), 1e-6)
            color = dr.lerp(color, shade, self.gloss.metalness)
        direction, weight = dr.if_stmt(
            (v, view), self.on_floor, draw, lambda v, view: (view, dr.zeros(mi.Color3f)), label="floor sample"
        )
        return direction, weight, mirrored


def smoothstep(low: float, high: float, x: mi.Float) -> mi.Float:
    """Return 0 below `low`, 1 above `high`, and a smooth cubic between."""
    t = dr.clip((x - low) / (high - low), 0.0, 1.0)
    return t * t * (3 - 2 * t)
