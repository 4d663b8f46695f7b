"""Our path tracer: next-event estimation and BSDF sampling joined by multiple importance sampling.

Six things set it apart from a textbook one:

* Shadow rays pass clear walls (covers, lenses) in a straight line, dimmed by Fresnel and absorption; a refracted
  path keeps the density of the last scattering before the wall, so that both ways of reaching a light are weighted
  against each other. Exact for walls with parallel faces, and for what such a wall lies on; bounded for others.
* The floor takes shadow and reflection but otherwise equals the backdrop: its diffuse albedo is set so that,
  unshadowed, it sends back the backdrop's colour, and what its mirror lobe would see of the surroundings is
  replaced by that colour too.
* Backdrop and floor are colours of the picture, not of the scene: how much of them comes along is summed apart
  (`backdrop`), so that exposure, brightness and tone curve leave them as they are, see `picture.develop`.
* Guides for the denoiser (albedo, normal) are those of the first surface behind clear walls and mirrors.
* In a dense body the path walks from scattering to scattering, in a loop of its own, see `walk`.
* Clear bodies nest and overlap: each path knows which it is within, see `interior`.
"""

from __future__ import annotations

from usual_lamp.core.scene.light_groups import GLOW
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.sampler import PixelSampler
from usual_lamp.core.trace.surface.scattered import Scattered
from usual_lamp.core.trace.transport import book, walk
from usual_lamp.core.trace.transport.account import Account
from usual_lamp.core.trace.transport.arrival import Arrival
from usual_lamp.core.trace.transport.book import Book
from usual_lamp.core.trace.transport.interior import Interior
from usual_lamp.core.trace.transport.met_light import MetLight
from usual_lamp.core.trace.transport.mis import power_heuristic
from usual_lamp.core.trace.transport.path import GroupSums, Hit, Path
from usual_lamp.core.trace.transport.shading import BsdfSample, Guide, LightResponse, SurfaceShader
from usual_lamp.core.trace.transport.shadow import transmittance
from usual_lamp.core.trace.world.floor import Floor, FloorNumbers
from usual_lamp.core.trace.world.light_sample import LightSample
from usual_lamp.core.trace.world.world import World

MAX_BOUNCES = 12
HARDLY_SEEN = 0.04
"""Of white: samples of indirect light that bring less are asked for by chance. Over 0.02, and 0.25 of odds: demo, as1,
tray 0.96, 0.99 and 1.00 of the time a sample, 1.00 of the squared error (medians of six)."""
LEAST_ODDS = 0.15
"""Of a light sample that is asked for by chance."""
ROULETTE_AFTER = 2
"""Surfaces met. Of 1 to 4 the one with the least time to equal error on the three frozen scenes."""


def trace(
    world: World,
    ray: mi.Ray3f,
    sampler: PixelSampler,
    backdrop: mi.Color3f,
    clamp: mi.Float,
    layers: bool = False,
    groups: int = 0,
) -> Path:
    """Follow one path per ray. `backdrop` is what a ray that meets nothing sees, per lane, in cd/m².

    Light that arrives by two or more scatterings is held under `clamp` cd/m² per sample; clear walls do not count.
    With `layers`, the path's book holds the light by kind and source. With `groups`, light is summed for each group of
    lights at its nominal level, and not as a whole, and a book holds it by kind alone.
    """
    n = dr.width(ray)
    bottom = mi.Color3f(*(dr.opaque(mi.Float, float(v)) for v in world.bottom))
    path = Path(
        active=dr.full(mi.Bool, True, n),
        ray=ray,
        near=dr.zeros(mi.PreliminaryIntersection3f, n),
        sampler=sampler,
        beta=dr.full(mi.Color3f, 1.0, n),
        light=dr.zeros(mi.Color3f, n),
        backdrop=dr.zeros(mi.Color3f, n),
        albedo=dr.zeros(mi.Color3f, n),
        normal=dr.zeros(mi.Vector3f, n),
        depth=dr.zeros(mi.UInt32, n),
        scatterings=dr.zeros(mi.UInt32, n),
        kind=dr.zeros(mi.UInt32, n),
        open=dr.full(mi.Bool, True, n),
        guide=dr.full(mi.Color3f, 1.0, n),
        from_floor=dr.full(mi.Bool, False, n),
        floor_seen=dr.full(mi.Bool, False, n),
        matt=dr.full(mi.Bool, False, n),
        last_point=dr.zeros(mi.Point3f, n),
        last_density=dr.zeros(mi.Float, n),
        tint=backdrop / dr.maximum(bottom, 1e-4),
        walking=dr.full(mi.Bool, False, n),
        body=dr.zeros(mi.UInt32, n),
        steps=dr.zeros(mi.UInt32, n),
        interior=Interior.empty(n) if world.has_nested else Interior(),
        book=Book.opened(n, sources=groups == 0) if layers else Book(),
        floor_gain=dr.full(mi.Color3f, 1.0, n),
        groups=GroupSums.opened(groups, n),
    )
    bounce = Bounce(world, bottom, clamp)
    bounce.arrive(path, coherent=True)
    # Recording the loop a second time, to drop state that never changes, costs more than it saves.
    with dr.scoped_set_flag(dr.JitFlag.OptimizeLoops, False):
        (path,) = dr.while_loop(state=(path,), cond=lambda p: p.active, body=lambda p: (bounce(p),), label="path")
    return path


class Bounce:
    """One step of a path: the surface that was met, light sampling, scattering, and the way to what is met next."""

    def __init__(self, world: World, bottom: mi.Color3f, clamp: mi.Float) -> None:
        self.world, self.bottom, self.account = world, bottom, Account(world.lights, clamp)
        albedo = mi.Color3f(*(dr.opaque(mi.Float, float(v)) for v in world.floor_albedo))
        self.floor = FloorNumbers.of(world.inputs, albedo)
        self.arrival, self.met = Arrival(world), MetLight(world, bottom, self.account)
        self.shade = SurfaceShader(world, self.floor)

    def arrive(self, p: Path, coherent: bool = False) -> None:
        """Follow each ray to what it meets, and add the light on the way. What meets nothing ends here.

        It is done at the end of a step, and not at the beginning: most paths meet one surface and then nothing, and
        what a packet of them does not meet need not be shaded.
        """
        p.near = self.world.near(p.ray, coherent, p.active)
        if self.world.table.has.subsurface:
            self.arrival.walk(p)
        if self.world.lamps is not None:
            self.met.lamps(p)
        missed = p.active & ~p.near.is_valid()
        self.met.outside(p, missed)
        p.active &= ~missed

    def __call__(self, p: Path) -> Path:
        """Shade what was met, and go on from there."""
        met = mi.Bool(p.active)
        hit, passes = self._meet(p, self.world.hit_at(p.near, met), met)
        light = self.world.lights.sample(hit.si.p, p.sampler.next_2d(), hit.valid)
        u, v = p.sampler.next_2d(), p.sampler.next_2d()
        shading = self.shade(hit, p.ray, light.direction, u.x, v)
        floor = Floor(self.floor, p.ray, hit.si.p, hit.on_floor, shading.gloss)
        p.beta *= shading.lasting
        self.met.glow(p, hit, shading)
        floor_gain = self._fade_floor(p, hit, floor) if self.world.has_floor else mi.Color3f(1.0)
        self._guides(p, hit, shading.guide)
        self._add_light(p, hit, floor, light, shading.light, floor_gain)
        self._scatter(p, hit, floor, shading.sample, u, v, passes, floor_gain)
        self.arrive(p)
        return p

    def _meet(self, p: Path, si: mi.SurfaceInteraction3f, met: mi.Bool) -> tuple[Hit, mi.Bool]:
        """What of the hits is a surface, and which lanes pass what is none to them."""
        leaving = self.arrival.leaves(p, si, met) if self.world.table.has.subsurface else mi.Bool(False)
        index = self.world.appearance_of(si, met)
        passes = self.arrival.cut_outs(p, si, index, met & ~leaving)
        wall = None
        if self.world.has_nested:
            wall = self.arrival.nested(p, si, index, met & ~leaving, passes)
            passes |= wall.passed
        valid = met & ~passes
        on_floor = valid & (index == self.world.floor_number) if self.world.has_floor else mi.Bool(False)
        return Hit(si, valid, on_floor, leaving & valid, index, wall), passes

    def _fade_floor(self, p: Path, hit: Hit, floor: Floor) -> mi.Color3f:
        """Seen directly, the floor is tinted like the backdrop behind it and fades into it far out. What light is
        multiplied by there that it sends back: unshadowed, it is the backdrop then."""
        first = hit.on_floor & p.open
        p.beta = dr.select(first, p.beta * p.tint, p.beta)
        arrives, unlit = dr.if_stmt(
            (mi.Point3f(hit.si.p),),
            first,
            lambda point: self.world.floor_light.at(point, first),
            lambda point: (mi.Color3f(1.0), mi.Float(0.0)),
            label="floor light",
        )
        # Where no light but that of glowing parts arrives, nothing can be shaded.
        unlit = unlit * floor.opacity * (1 - floor.mirror)
        self.account.add_backdrop(p, p.beta * self.bottom * (1 - floor.opacity + unlit), first)
        p.beta = dr.select(first, p.beta * floor.opacity, p.beta)
        # What it mirrors fades with the height above it, into the backdrop that it would mirror otherwise.
        mirrored = hit.on_part & p.from_floor & p.floor_seen
        share = self.floor.mirrored(hit.si.p)
        self.account.add_backdrop(p, p.beta * self.bottom * (1 - share), mirrored)
        p.beta = dr.select(mirrored, p.beta * share, p.beta)
        lit = self.floor.albedo * arrives * dr.inv_pi
        return dr.select(first, self.bottom / dr.maximum(lit, 1e-12), p.floor_gain)

    def _guides(self, p: Path, hit: Hit, guide: Guide) -> None:
        """Albedo and normal of the first surface that is not a mirror or a clear wall, in the mirrors' colour."""
        found = hit.valid & ~guide.reflects & (dr.max(p.guide) > 0)
        color = dr.select(hit.on_floor, 0.6 * p.tint, guide.color)
        normal = dr.select(hit.on_floor, self.floor.axes.n, guide.normal)
        p.albedo += dr.select(found, p.guide * color, 0.0)
        p.normal = dr.select(found, mi.Vector3f(normal), p.normal)
        p.guide = dr.select(found, 0.0, dr.select(guide.reflects, p.guide * guide.mirror, p.guide))

    # -- light that is sought -------------------------------------------------------------------------------

    def _add_light(
        self, p: Path, hit: Hit, floor: Floor, light: LightSample, response: LightResponse, floor_gain: mi.Color3f
    ) -> None:
        """The light that was sampled, past what throws shadow on the hit."""
        value, density = self._toward_light(hit, floor, light.direction, response)
        if self.world.lights.lamps is not None or self.world.lights.distant is not None:
            # What no mirror shows cannot be met by scattering: all of it is sought here, and none of it in mirrors.
            value.specular = dr.select(light.mirrored, value.specular, 0.0)
            density = dr.select(light.mirrored, density, 0.0)
        total = value.total()
        agrees = response.agrees | hit.on_floor
        useful = hit.valid & (light.density > 0) & (dr.max(total) > 0) & agrees
        ray = hit.si.spawn_ray(light.direction)
        ray.maxt = light.distance * (1 - 1e-4)
        interior = hit.wall.crossed.where(response.below, p.interior) if hit.wall else p.interior
        asked, odds = self._asked(p, light, total, density, useful)
        shadow, spread = transmittance(self.world, ray, asked, interior)
        shadow = dr.select(asked, shadow / odds, 0.0)
        weight = power_heuristic(light.density, density * spread)
        incoming = dr.select(useful, p.beta * light.radiance * (spread / light.density), 0.0)
        shows_floor = ((hit.on_floor & p.open) | p.matt) & (light.group != GLOW)
        incoming *= dr.select(shows_floor, floor_gain, 1.0)
        first = p.scatterings == 0
        p.scatterings += 1
        arriving = incoming * total * shadow * weight
        if p.book.layers:
            gain = self.world.lights.gain(light.group, useful)
            self._book_light(p, value, incoming * gain, shadow, weight, light.group)
            p.book.put_direct(dr.select(first, incoming * gain * total, 0.0), shadow)
        self.account.add(p, arriving, useful, light.group, None, shows_floor)
        p.scatterings -= 1

    def _asked(
        self, p: Path, light: LightSample, total: mi.Color3f, density: mi.Float, useful: mi.Bool
    ) -> tuple[mi.Bool, mi.Float]:
        """For which of the useful samples a shadow ray is sent, and how likely that was: indirect light that would
        hardly be seen is asked for by chance. All at nominal levels, which may be changed later."""
        peak = dr.max(p.beta * total * light.radiance) * power_heuristic(light.density, density) / light.density
        odds = dr.clip(peak / (HARDLY_SEEN * self.world.lights.white), LEAST_ODDS, 1.0)
        odds = dr.select(p.scatterings > 0, odds, 1.0)
        return useful & (p.sampler.chance() < odds), odds

    @staticmethod
    def _toward_light(
        hit: Hit, floor: Floor, direction: mi.Vector3f, response: LightResponse
    ) -> tuple[Scattered, mi.Float]:
        """What the hit sends back of light from a direction, be it part or floor, and its density."""
        matt = dr.maximum(floor.cosine(direction), 0.0) * dr.inv_pi * (1 - floor.mirror)
        value = response.value.where(~hit.on_floor)
        value.diffuse += dr.select(hit.on_floor, floor.albedo * matt, 0.0)
        return value, dr.select(hit.on_floor, matt, response.density)

    def _book_light(
        self,
        p: Path,
        value: Scattered,
        incoming: mi.Color3f,
        shadow: mi.Color3f,
        weight: mi.Float,
        group: mi.UInt32,
    ) -> None:
        """Sampled light by kind: at the first scattering by its own lobe, later by that of the first."""
        total = incoming * value.total() * shadow * weight
        scale = self.account.hold(p, total, mi.Color3f(1.0))
        first, later = p.kind == book.NONE, Book.layer_of(p.kind, mi.UInt32(2))
        for kind, part in ((book.DIFFUSE, value.diffuse), (book.SPECULAR, value.specular), (book.PASSED, value.passed)):
            light = incoming * part * shadow * (weight * scale)
            layer = dr.select(first, Book.layer_of(mi.UInt32(kind), mi.UInt32(1)), later)
            p.book.put(light, Book.source_of(group), layer)

    # -- onwards --------------------------------------------------------------------------------------------

    def _scatter(
        self,
        p: Path,
        hit: Hit,
        floor: Floor,
        sample: BsdfSample,
        u: mi.Point2f,
        v: mi.Point2f,
        passes: mi.Bool,
        floor_gain: mi.Color3f,
    ) -> None:
        """Send each path on its way, as the part's surface or the floor scatters it."""
        direction, weight, mirrored = floor.sample(u.x, v, mi.Vector3f(-p.ray.d))
        direction = dr.select(hit.on_floor, direction, sample.direction)
        weight = dr.select(hit.on_floor, weight, sample.weight)
        floor_cos = dr.maximum(floor.cosine(direction), 0.0)
        floor_density = dr.select(mirrored, 0.0, floor_cos * dr.inv_pi * (1 - floor.mirror))
        scatters = hit.valid & ~sample.walks_on
        p.beta = dr.select(hit.valid, p.beta * weight, p.beta)
        if self.world.table.has.subsurface:
            p.walking |= sample.enters
            p.body = dr.select(sample.enters, hit.index, p.body)
        if hit.wall:
            p.interior = hit.wall.crossed.where(sample.crosses, p.interior)
            p.last_density *= sample.bend
        p.last_point = dr.select(scatters, hit.si.p, p.last_point)
        p.last_density = dr.select(scatters, dr.select(hit.on_floor, floor_density, sample.density), p.last_density)
        if p.book.layers:
            on_floor = dr.select(mirrored, mi.UInt32(book.SPECULAR), mi.UInt32(book.DIFFUSE))
            kind = dr.select(hit.on_floor, on_floor, sample.kind)
            p.kind = dr.select(hit.valid & (p.kind == book.NONE), kind, p.kind)
        p.scatterings += dr.select(scatters, 1, 0)
        seen_floor = scatters & hit.on_floor & p.open
        p.floor_gain = dr.select(seen_floor & ~mirrored, floor_gain, p.floor_gain)
        p.matt |= seen_floor & ~mirrored
        p.floor_seen = dr.select(scatters, seen_floor & mirrored, p.floor_seen)
        p.open &= ~scatters
        p.from_floor = dr.select(scatters, hit.on_floor & mirrored, p.from_floor)
        p.depth += dr.select(hit.valid, 1, 0)
        p.ray = hit.si.spawn_ray(dr.select(passes, p.ray.d, direction))
        p.steps += dr.select(sample.walks_on, 1, 0)
        self._end(p, hit.valid, u.y, passes & (p.steps < walk.MOST_STEPS))

    @staticmethod
    def _end(p: Path, hit: mi.Bool, u: mi.Float, goes_on: mi.Bool) -> None:
        """Russian roulette; walks and passages through clear walls and cut-outs are counted on their own."""
        peak = dr.max(p.beta)
        survive = dr.select(hit & (p.depth > ROULETTE_AFTER), dr.clip(peak, 0.05, 1.0), 1.0)
        p.active &= (
            hit & (peak > 0) & (p.scatterings < MAX_BOUNCES) & (p.steps < walk.MOST_STEPS) & (u < survive)
        ) | goes_on
        p.beta /= survive
