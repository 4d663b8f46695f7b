"""Lamps in the traced scene: bright triangles in a scene of their own, and discs at infinity.

Lamps add light and stand in no one's way: a ray meets them on the way to the surface behind, and goes on. They are
drawn by what they could give in the middle of the product, evenly over their area.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import hex_to_linear
from usual_lamp.core.light import lamps as kinds
from usual_lamp.core.light.lamp_shapes import NEVER_SPOT, areas, color_numbers, corners_of, illuminance, limits
from usual_lamp.core.scene.document import Lighting
from usual_lamp.core.scene.light_groups import LightGroups
from usual_lamp.core.trace.engine import dr, mi, settled
from usual_lamp.core.trace.surface.table import Four
from usual_lamp.core.trace.world.geometry import Piece, mesh_shape
from usual_lamp.core.trace.world.light_sample import LUMINANCE, LightSample, TrianglePoint
from usual_lamp.core.trace.world.profiles import Profiles
from usual_lamp.core.trace.world.running_sums import RunningSums

Array = NDArray[np.float64]
LEAST_SHARE = 0.03
"""Of the light samples of all lamps, for one that is off or far away: it may be switched on without a new trace."""


class Lamps:
    """All lamps with a place: triangles with their light, and the scene in which rays meet them."""

    def __init__(self, lighting: Lighting, groups: LightGroups, center: Array, room: int = 1) -> None:
        """`room` is the least number of triangles that the kernel is compiled for."""
        found = [(id, lamp) for id, lamp in lighting.sources.items() if isinstance(lamp, kinds.Standing)]
        shares = shares_of([(lamp, groups.gains[groups.of_lamp[id]]) for id, lamp in found], center)
        corners, light, more, weight = [], [], [], []
        self.profiles = Profiles([lamp for _, lamp in found])
        for (id, lamp), share in zip(found, shares, strict=True):
            triangles, luminance = corners_of(lamp)
            area = areas(triangles)
            color = luminance * groups.traced_in[id] * tints(lamp, len(area))
            low, high = limits(lamp)
            shows = float(lamp.seen) + 2.0 * float(lamp.mirrored)
            corners.append(triangles)
            weight.append(share * area / area.sum())
            light.append(np.c_[color, np.full(len(area), share / area.sum())])
            shows += 4.0 * self.profiles.number_of(lamp)
            more.append(np.tile([groups.of_lamp[id], low, high, shows], (len(area), 1)))
        self.shines = bool(corners)
        if not corners:
            corners, weight = [np.zeros((1, 3, 3))], [np.zeros(1)]
            light, more = [np.zeros((1, 4))], [np.array([[0.0, NEVER_SPOT - 1, NEVER_SPOT, 0.0]])]
        places = np.concatenate(corners)
        self.powers, self.corners = RunningSums.padded(np.concatenate(weight), room), settled(places)
        self.light, self.more = settled(np.concatenate(light)), settled(np.concatenate(more))
        flat = places.reshape(-1, 3).astype(np.float32)
        numbers = np.arange(len(flat), dtype=np.uint32).reshape(-1, 3)
        self.scene = mi.load_dict({"type": "scene", "lamps": mesh_shape(Piece(flat, flat, numbers))})

    def sample(self, origin: mi.Point3f, point: mi.Point2f, active: mi.Bool) -> LightSample:
        """Return a point on a lamp, as seen from `origin`."""
        found = TrianglePoint.drawn(self.powers, self.corners, point, active)
        way = mi.Vector3f(found.place - origin)
        distance = dr.norm(way)
        direction = way / dr.maximum(distance, 1e-9)
        radiance, density, group, shows = self._light(
            found.index, direction, distance, found.a, found.b, found.c, active
        )
        return LightSample(direction, distance, radiance, density, group, shows >= 2)

    def met(
        self, ray: mi.Ray3f, active: mi.Bool
    ) -> tuple[mi.Bool, mi.Float, mi.Color3f, mi.Float, mi.UInt32, mi.UInt32]:
        """The next lamp along a ray: whether there is one, how far, its radiance, the density of drawing that
        direction, its group, and who is shown it (1 the camera, 2 mirrors, 3 both)."""
        near = self.scene.ray_intersect_preliminary(ray, False, active)
        hit = active & near.is_valid()
        index = near.prim_index
        a, b, c = (dr.gather(mi.Point3f, self.corners, index * 3 + k, hit) for k in range(3))
        return hit, near.t, *self._light(index, ray.d, near.t, a, b, c, hit)

    def _light(
        self,
        index: mi.UInt32,
        direction: mi.Vector3f,
        distance: mi.Float,
        a: mi.Point3f,
        b: mi.Point3f,
        c: mi.Point3f,
        active: mi.Bool,
    ) -> tuple[mi.Color3f, mi.Float, mi.UInt32, mi.UInt32]:
        """Radiance, density per steradian, group and who is shown it; all 0 from behind and outside of a beam."""
        light = dr.gather(Four, self.light, index, active)
        more = dr.gather(Four, self.more, index, active)
        cosine = -dr.dot(dr.normalize(dr.cross(b - a, c - a)), direction)
        t = dr.clip((cosine - more[1]) / (more[2] - more[1]), 0.0, 1.0)
        narrowed = dr.select(more[1] > NEVER_SPOT, dr.rcp(dr.maximum(cosine, 1e-3)), 1.0)
        front = active & (cosine > 1e-6)
        strength = dr.select(front, t * t * (3 - 2 * t) * narrowed, 0.0)
        density = dr.select(front, light[3] * dr.square(distance) / dr.maximum(cosine, 1e-6), 0.0)
        flags = mi.UInt32(more[3])
        strength *= self.profiles.toward(flags // 4, direction, front)
        color = mi.Color3f(light[0], light[1], light[2]) * strength
        return color, density, mi.UInt32(more[0]), flags & 3


def tints(lamp: kinds.Standing, count: int) -> Array:
    """(count, 3): linear colour of each of a lamp's triangles, white but for bulbs."""
    if not isinstance(lamp, kinds.FieldLamp):
        return np.ones((count, 3))
    return np.array([hex_to_linear(color) for color in lamp.colors])[color_numbers(lamp, count)]


class Distant:
    """Round lights at infinity, at most `MOST` of them."""

    MOST = kinds.MOST_DISTANT

    def __init__(self, lighting: Lighting, groups: LightGroups, center: Array) -> None:
        found = [(id, lamp) for id, lamp in lighting.sources.items() if isinstance(lamp, kinds.DistantLamp)]
        shares = shares_of([(lamp, groups.gains[groups.of_lamp[id]]) for id, lamp in found], center)
        rows = np.zeros((self.MOST, 12))
        rows[:, 2], rows[:, 3] = 1.0, 1e-6
        for row, (id, lamp), share in zip(rows, found, shares, strict=False):
            height = 2 * math.sin(math.radians(lamp.angle / 2) / 2) ** 2
            row[:3], row[3] = lamp.direction(), height
            row[4:7], row[7] = lamp.luminance * groups.traced_in[id], share
            row[8], row[9] = groups.of_lamp[id], float(lamp.seen) + 2.0 * float(lamp.mirrored)
        self.shines = bool(found)
        self.rows = settled(rows)

    def _row(self, index: mi.UInt32 | int, active: mi.Bool) -> tuple[Four, Four, Four]:
        at = mi.UInt32(index) * 3
        return tuple(dr.gather(Four, self.rows, at + k, active) for k in range(3))

    def sample(self, point: mi.Point2f, active: mi.Bool) -> LightSample:
        """Return a direction within the disc of one of them."""
        index, first, low, share = mi.UInt32(0), mi.Float(point.x), mi.Float(0.0), mi.Float(0.0)
        for k in range(self.MOST):
            part = self._row(k, active)[1][3]
            here = (point.x >= low) & (point.x < low + part)
            index = dr.select(here, k, index)
            first = dr.select(here, (point.x - low) / dr.maximum(part, 1e-9), first)
            share = dr.select(here, part, share)
            low = low + part
        place, light, more = self._row(index, active)
        axis, height = mi.Vector3f(place[0], place[1], place[2]), place[3]
        h = dr.clip(first, 0.0, 1.0) * height
        sine = dr.safe_sqrt(h * (2 - h))
        s, c = dr.sincos(dr.two_pi * point.y)
        direction = dr.normalize(mi.Frame3f(axis).to_world(mi.Vector3f(sine * c, sine * s, 1 - h)))
        density = share * dr.inv_two_pi / height
        color = mi.Color3f(light[0], light[1], light[2])
        return LightSample(direction, mi.Float(1e6), color, density, mi.UInt32(more[0]), more[1] >= 2)

    def toward(self, direction: mi.Vector3f, active: mi.Bool) -> tuple[mi.Color3f, mi.Float, mi.UInt32, mi.UInt32]:
        """Radiance from a direction, density of drawing it, group, and who is shown it; of the first that is there."""
        found = mi.UInt32(self.MOST)
        for number in reversed(range(self.MOST)):
            place, light, _ = self._row(number, active)
            off = dr.squared_norm(direction - mi.Vector3f(place[0], place[1], place[2]))
            found = dr.select((off <= 2 * place[3]) & (light[3] > 0), number, found)
        inside = active & (found < self.MOST)
        place, light, more = self._row(found, inside)
        color = mi.Color3f(light[0], light[1], light[2])
        density = dr.select(inside, light[3] * dr.inv_two_pi / dr.maximum(place[3], 1e-12), 0.0)
        return color, density, mi.UInt32(more[0]), mi.UInt32(more[1])


def shares_of(lamps: Sequence[tuple[kinds.BaseLamp, Array]], center: Array) -> Array:
    """Share of the light samples for each: by the illuminance that it could give in the middle of the product."""
    power = np.array([float(illuminance(lamp, center[None])[0] * (gain @ LUMINANCE)) for lamp, gain in lamps])
    if not len(power):
        return power
    total = float(power.sum())
    shares = power / total if total > 0 else np.full(len(power), 1.0 / len(power))
    shares = np.maximum(shares, LEAST_SHARE if len(power) < 12 else 0.3 / len(power))
    return np.asarray(shares / shares.sum())
