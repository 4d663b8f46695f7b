"""The floor at a hit: a matt body in the backdrop's colour under a mirror lobe that fades outwards."""

from __future__ import annotations

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface import microfacet
from usual_lamp.core.trace.world.geometry import FLOOR_REACH

FLOOR_IOR = 1.45


class Floor:
    """What the floor does with light, per lane; `albedo` sends back the backdrop's colour where it is unshadowed."""

    def __init__(
        self,
        albedo: mi.Color3f,
        center: mi.Point2f,
        radius: mi.Float,
        ray: mi.Ray3f,
        point: mi.Point3f,
        on_floor: mi.Bool,
    ) -> None:
        self.albedo, self.on_floor = albedo, on_floor
        far = dr.norm(mi.Point2f(point.x, point.y) - center) / radius
        cos = dr.clip(dr.abs(ray.d.z), 0.0, 1.0)
        self.opacity, self.mirror, self.alpha = dr.if_stmt(
            (far, cos),
            on_floor,
            self._lobes,
            lambda f, c: (mi.Float(1.0), mi.Float(0.0), mi.Float(1.0)),
            label="floor",
        )

    @staticmethod
    def _lobes(far: mi.Float, cos: mi.Float) -> tuple[mi.Float, mi.Float, mi.Float]:
        fresnel, _ = microfacet.dielectric(cos, FLOOR_IOR)
        opacity = 1 - smoothstep(0.35 * FLOOR_REACH, 0.95 * FLOOR_REACH, far)
        mirror = 0.75 * fresnel * (1 - smoothstep(1.2, 3.5, far))
        return opacity, mirror, microfacet.alpha(dr.lerp(0.2, 0.6, smoothstep(0.6, 2.5, far))).x

    def sample(self, pick: mi.Float, v: mi.Point2f, view: mi.Vector3f) -> tuple[mi.Vector3f, mi.Color3f, mi.Bool]:
        """Direction, weight and whether the mirror lobe was taken."""

        def draw(v: mi.Point2f, view: mi.Vector3f) -> tuple[mi.Vector3f, mi.Color3f]:
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
