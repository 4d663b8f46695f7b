"""Light that paths meet on their way: lamps, surroundings and backdrop, lights far away, and parts that glow.

Each is weighted against the light samples that would have found it as well, see `mis`.
"""

from __future__ import annotations

from usual_lamp.core.scene.light_groups import ENVIRONMENT, GLOW
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.transport.account import Account, layer_of
from usual_lamp.core.trace.transport.mis import power_heuristic
from usual_lamp.core.trace.transport.path import Hit, Path
from usual_lamp.core.trace.transport.shading import Shading
from usual_lamp.core.trace.world.world import World

LAMPS_IN_LINE = 2
"""Lamps that a ray meets one behind the other."""


class MetLight:
    """Adds what is met in one world to the account of the paths."""

    def __init__(self, world: World, bottom: mi.Color3f, account: Account) -> None:
        self.world, self.bottom, self.account = world, bottom, account

    def lamps(self, p: Path) -> None:
        """The lamps on the way: they add their light, and the ray goes on."""
        lamps, share = self.world.lights.lamps, self.world.lights.lamp_share
        assert lamps is not None
        shown_to = self._shown_to(p)
        reach = dr.select(p.near.is_valid(), p.near.t, dr.inf)
        ray, active = mi.Ray3f(p.ray), mi.Bool(p.active)
        for number in range(LAMPS_IN_LINE):
            ray.maxt = reach
            hit, t, radiance, density, group, shown = lamps.met(ray, active)
            weight = dr.select(p.last_density > 0, power_heuristic(p.last_density, density * share), 1.0)
            counts = hit & ((shown & shown_to) != 0) & (dr.max(radiance) > 0)
            self.account.add(p, p.beta * radiance * weight * p.floor_gain, counts, group, layer_of(p), p.matt)
            if number + 1 < LAMPS_IN_LINE:
                active = hit
                onward = t * (1 + 1e-5) + 1e-4
                ray = mi.Ray3f(ray(dr.select(hit, onward, 0.0)), ray.d)
                reach -= dr.select(hit, onward, 0.0)

    @staticmethod
    def _shown_to(p: Path) -> mi.UInt32:
        """Whom a lamp must be shown to, so that it is met: 1 the camera, 2 mirrors. The floor shows what the camera
        sees behind it: a lamp that is left out there would leave a bright patch on it."""
        return dr.select(p.open | p.from_floor, mi.UInt32(1), mi.UInt32(2))

    def outside(self, p: Path, missed: mi.Bool) -> None:
        """The surroundings or the backdrop behind everything, weighted against light sampling."""
        lights = self.world.lights
        backdrop = missed & (p.open | p.from_floor)
        lit = missed & ~backdrop

        def weighted(direction: mi.Vector3f, last: mi.Float) -> mi.Color3f:
            """Radiance of the surroundings from a direction, cd/m²; where light sampling would have found it as well,
            with the density `last` of this way, its share by the power heuristic."""
            competes = lit & (last > 0)
            density = lights.environment.density(direction, competes) * lights.environment_share
            weight = dr.select(competes, power_heuristic(last, density), 1.0)
            return lights.environment.radiance(direction, lit) * weight

        seen = dr.if_stmt(
            (mi.Vector3f(p.ray.d), p.last_density),
            lit,
            weighted,
            lambda d, last: dr.zeros(mi.Color3f),
            label="outside",
        )
        shows = p.open | p.floor_seen
        # In a mirror the floor is a part of the scene, and as bright as that.
        behind = self.bottom * dr.select(p.open, p.tint, 1.0)
        self.account.add_backdrop(p, p.beta * behind, backdrop & shows)
        light = p.beta * dr.select(lit, seen * p.floor_gain, behind)
        self.account.add(p, light, lit | (backdrop & ~shows), mi.UInt32(ENVIRONMENT), layer_of(p), lit & p.matt)
        if lights.distant is not None:
            self._distant(p, missed)
        guide = dr.select(lit, seen, self.bottom * p.tint) / dr.maximum(self.bottom.y, 1e-6) * 0.6
        p.albedo += dr.select(missed, p.guide * dr.minimum(guide, 1.0), 0.0)

    def _distant(self, p: Path, missed: mi.Bool) -> None:
        """The sun and its like, where nothing hides them."""
        lights = self.world.lights
        assert lights.distant is not None
        radiance, density, group, shown = lights.distant.toward(p.ray.d, missed)
        density *= lights.distant_share
        weight = dr.select(p.last_density > 0, power_heuristic(p.last_density, density), 1.0)
        counts = missed & (density > 0) & ((shown & self._shown_to(p)) != 0)
        self.account.add(p, p.beta * radiance * weight * p.floor_gain, counts, group, layer_of(p), p.matt)

    def glow(self, p: Path, hit: Hit, shading: Shading) -> None:
        """Emission of a glowing part, from its outer side."""
        glow = self.world.lights.glow
        cosine = -dr.dot(hit.si.n, p.ray.d)
        light = mi.Color3f(0.0)
        if glow is not None:
            density = glow.density(shading.emission, dr.norm(hit.si.p - p.last_point), cosine)
            density *= self.world.lights.glow_share
            light += shading.emission * dr.select(p.last_density > 0, power_heuristic(p.last_density, density), 1.0)
        if shading.glow is not None:
            # A picture that glows is met by chance only, so it is not weighted against anything.
            light += shading.glow
        elif glow is None:
            return
        met = hit.on_part & (dr.max(light) > 0) & (cosine > 0)
        self.account.add(p, p.beta * light, met, mi.UInt32(GLOW), layer_of(p), mi.Bool(False))
