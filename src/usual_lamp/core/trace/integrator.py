"""Our path tracer: next-event estimation and BSDF sampling joined by multiple importance sampling.

Three things set it apart from a textbook one:

* Shadow rays pass clear walls (covers, lenses) in a straight line, dimmed by Fresnel and absorption; a refracted
  path keeps the density of the last scattering before the wall, so that both ways of reaching a light are weighted
  against each other. Exact for walls with parallel faces, bounded for others.
* The floor takes shadow and reflection but otherwise equals the backdrop: its diffuse albedo is set so that,
  unshadowed, it sends back the backdrop's colour, and what its mirror lobe would see of the surroundings is
  replaced by that colour too.
* Guides for the denoiser (albedo, normal) are those of the first surface behind clear walls.
"""

from __future__ import annotations

from dataclasses import dataclass

from usual_lamp.core.trace import microfacet
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.geometry import FLOOR_REACH
from usual_lamp.core.trace.sampler import PixelSampler
from usual_lamp.core.trace.surface import CLEAR_ROUGHNESS, Surface
from usual_lamp.core.trace.world import World

MAX_BOUNCES = 12
SHADOW_WALLS = 8
ROULETTE_AFTER = 4
FLOOR_IOR = 1.45


@dataclass
class Path:
    """One path per lane: the loop state (a Dr.Jit pytree)."""

    active: mi.Bool
    ray: mi.Ray3f
    sampler: PixelSampler
    beta: mi.Color3f
    light: mi.Color3f
    albedo: mi.Color3f
    normal: mi.Vector3f
    depth: mi.UInt32
    open: mi.Bool
    """Still on the camera's side: only clear walls so far."""
    from_floor: mi.Bool
    """Last scattered by the floor's mirror lobe."""
    last_point: mi.Point3f
    last_density: mi.Float
    """Of the last scattering, per steradian; 0 when no light sampling competes."""
    tint: mi.Color3f
    """Backdrop here over backdrop at the bottom: colours the floor like what lies behind it."""


def trace(world: World, ray: mi.Ray3f, sampler: PixelSampler, backdrop: mi.Color3f, clamp: mi.Float) -> Path:
    """Follow one path per ray. `backdrop` is what a ray that meets nothing sees, per lane, in cd/m².

    Light that arrives by two or more bounces is held under `clamp` cd/m² per sample.
    """
    n = dr.width(ray)
    bottom = mi.Color3f(*(dr.opaque(mi.Float, float(v)) for v in world.bottom))
    path = Path(
        active=dr.full(mi.Bool, True, n),
        ray=ray,
        sampler=sampler,
        beta=dr.full(mi.Color3f, 1.0, n),
        light=dr.zeros(mi.Color3f, n),
        albedo=dr.zeros(mi.Color3f, n),
        normal=dr.zeros(mi.Vector3f, n),
        depth=dr.zeros(mi.UInt32, n),
        open=dr.full(mi.Bool, True, n),
        from_floor=dr.full(mi.Bool, False, n),
        last_point=dr.zeros(mi.Point3f, n),
        last_density=dr.zeros(mi.Float, n),
        tint=backdrop / dr.maximum(bottom, 1e-4),
    )
    bounce = Bounce(world, bottom, clamp)
    (path,) = dr.while_loop(state=(path,), cond=lambda p: p.active, body=lambda p: (bounce(p),), label="path")
    return path


class Bounce:
    """One step of a path: hit, emission, light sampling, scattering."""

    def __init__(self, world: World, bottom: mi.Color3f, clamp: mi.Float) -> None:
        self.world, self.bottom, self.clamp = world, bottom, clamp
        self.floor_albedo = mi.Color3f(*(dr.opaque(mi.Float, float(v)) for v in world.floor_albedo))
        x, y, _ = world.inputs.center
        self.center = mi.Point2f(dr.opaque(mi.Float, x), dr.opaque(mi.Float, y))
        self.radius = dr.opaque(mi.Float, world.inputs.radius)

    def __call__(self, p: Path) -> Path:
        flags = mi.RayFlags.Minimal | mi.RayFlags.ShadingFrame
        si = self.world.scene.ray_intersect(p.ray, flags, p.depth == 0, p.active)
        hit = p.active & si.is_valid()
        self._meet_light(p, si)
        index = self.world.appearance_of(si, hit)
        on_floor = hit & (index == self.world.floor_index) if self.world.has_floor else mi.Bool(False)
        surface, frame, flip = self._surface(p, si, index, hit)
        self._absorb(p, si, surface, hit & ~on_floor)
        self._meet_glow(p, si, surface, hit & ~on_floor)
        floor = Floor(self, p, si, on_floor)
        if self.world.has_floor:
            self._fade_floor(p, floor, on_floor)
        self._guides(p, surface, floor, frame, flip, hit & ~on_floor, on_floor)

        self._sample_light(p, si, surface, floor, frame, hit, on_floor)
        self._scatter(p, si, surface, floor, frame, hit, on_floor)
        return p

    # -- what was hit ---------------------------------------------------------------------------------------

    def _surface(
        self, p: Path, si: mi.SurfaceInteraction3f, index: mi.UInt32, hit: mi.Bool
    ) -> tuple[Surface, mi.Frame3f, mi.Bool]:
        """The surface at the hit in a frame that faces the viewer, bent back where interpolation turned it away."""
        behind = dr.dot(si.n, p.ray.d) > 0
        n = dr.select(behind, -si.sh_frame.n, si.sh_frame.n)
        n = dr.select(dr.dot(n, n) > 0.5, n, dr.select(behind, -si.n, si.n))
        cos = -dr.dot(n, p.ray.d)
        n = dr.normalize(n + p.ray.d * dr.minimum(cos - 0.005, 0.0))
        frame = mi.Frame3f(n)
        kind, thin = self.world.table.block("kind", index, hit)
        solid = (kind.z > 0) & (thin < 0.5)
        wi = frame.to_local(-p.ray.d)
        wi.z = dr.maximum(wi.z, 1e-4)
        return Surface(self.world.table, index, hit, dr.normalize(wi), behind & solid), frame, behind

    @staticmethod
    def _absorb(p: Path, si: mi.SurfaceInteraction3f, surface: Surface, hit: mi.Bool) -> None:
        """Beer's law along the way through a solid that the ray is about to leave."""
        if not surface.table.has_glass:
            return
        absorption, _ = surface.table.block("absorption", surface.index, hit & surface.inside)
        p.beta = dr.select(hit & surface.inside, p.beta * dr.exp(-absorption * si.t), p.beta)

    def _meet_light(self, p: Path, si: mi.SurfaceInteraction3f) -> None:
        """The surroundings or the backdrop behind everything, weighted against light sampling."""
        lights = self.world.lights
        missed = p.active & ~si.is_valid()
        backdrop = missed & (p.open | p.from_floor)
        lit = missed & ~backdrop

        def outside(direction: mi.Vector3f, last: mi.Float) -> mi.Color3f:
            competes = lit & (last > 0)
            density = lights.surroundings.density(direction, competes) * (1 - lights.glow_share)
            weight = dr.select(competes, power_heuristic(last, density), 1.0)
            return lights.surroundings.radiance(direction, lit) * weight

        seen = dr.if_stmt(
            (mi.Vector3f(p.ray.d), p.last_density),
            lit,
            outside,
            lambda d, last: dr.zeros(mi.Color3f),
            label="outside",
        )
        seen = dr.select(backdrop, self.bottom * dr.select(p.open, p.tint, 1.0), seen)
        self._add(p, p.beta * seen, missed)
        guide = dr.minimum(self.bottom * p.tint / self.bottom.y * 0.6, 1.0)
        p.albedo = dr.select(missed & p.open, guide, p.albedo)

    def _meet_glow(self, p: Path, si: mi.SurfaceInteraction3f, surface: Surface, hit: mi.Bool) -> None:
        """Emission of a glowing part, from its outer side."""
        glow = self.world.lights.glow
        if glow is None:
            return
        cosine = -dr.dot(si.n, p.ray.d)
        met = hit & (dr.max(surface.emission) > 0) & (cosine > 0)
        density = glow.density(surface.emission, dr.norm(si.p - p.last_point), cosine) * self.world.lights.glow_share
        weight = dr.select(p.last_density > 0, power_heuristic(p.last_density, density), 1.0)
        self._add(p, p.beta * surface.emission * weight, met)

    def _add(self, p: Path, light: mi.Color3f, active: mi.Bool) -> None:
        peak = dr.max(light)
        held = light * dr.minimum(1.0, self.clamp / dr.maximum(peak, 1e-9))
        p.light += dr.select(active, dr.select(p.depth > 1, held, light), 0.0)

    def _fade_floor(self, p: Path, floor: Floor, on_floor: mi.Bool) -> None:
        """Seen directly, the floor is tinted like the backdrop behind it and fades into it far out."""
        first = on_floor & p.open
        p.beta = dr.select(first, p.beta * p.tint, p.beta)
        p.light += dr.select(first, p.beta * self.bottom * (1 - floor.opacity), 0.0)
        p.beta = dr.select(first, p.beta * floor.opacity, p.beta)

    def _guides(
        self,
        p: Path,
        s: Surface,
        floor: Floor,
        frame: mi.Frame3f,
        flip: mi.Bool,
        hit: mi.Bool,
        on_floor: mi.Bool,
    ) -> None:
        solid = hit & p.open & ~s.clear
        color = dr.lerp(s.base, s.tint, s.glass)
        color = dr.select(dr.max(s.emission) > 0, 1.0, color)
        p.albedo = dr.select(solid, color, dr.select(on_floor & p.open, 0.6 * p.tint, p.albedo))
        p.normal = dr.select(solid, frame.n, dr.select(on_floor & p.open, mi.Vector3f(0, 0, 1), p.normal))

    # -- light ----------------------------------------------------------------------------------------------

    def _sample_light(
        self,
        p: Path,
        si: mi.SurfaceInteraction3f,
        s: Surface,
        floor: Floor,
        frame: mi.Frame3f,
        hit: mi.Bool,
        on_floor: mi.Bool,
    ) -> None:
        point = p.sampler.next_2d()
        light = self.world.lights.sample(si.p, point, hit)
        wo = frame.to_local(light.direction)
        value, density = s.evaluate(wo)
        # Through a clear wall only scattering goes: the shadow rays of other points already pass it.
        value = dr.select(s.clear & (wo.z <= 0), 0.0, value)
        floor_cos = dr.maximum(light.direction.z, 0.0)
        value = dr.select(on_floor, floor.albedo * (floor_cos * dr.inv_pi * (1 - floor.mirror)), value)
        density = dr.select(on_floor, floor_cos * dr.inv_pi * (1 - floor.mirror), density)
        agrees = (wo.z > 0) == (dr.dot(si.n, light.direction) * dr.dot(si.n, p.ray.d) < 0)
        useful = hit & (light.density > 0) & (dr.max(value) > 0) & (agrees | on_floor)
        ray = si.spawn_ray(light.direction)
        ray.maxt = light.distance * (1 - 1e-4)
        shadow = transmittance(self.world, ray, useful)
        weight = power_heuristic(light.density, density)
        arrived = dr.select(useful, p.beta * value * light.radiance / light.density * shadow * weight, 0.0)
        p.depth += 1
        self._add(p, arrived, hit)
        p.depth -= 1

    # -- onwards --------------------------------------------------------------------------------------------

    def _scatter(
        self,
        p: Path,
        si: mi.SurfaceInteraction3f,
        s: Surface,
        floor: Floor,
        frame: mi.Frame3f,
        hit: mi.Bool,
        on_floor: mi.Bool,
    ) -> None:
        u, v = p.sampler.next_2d(), p.sampler.next_2d()
        wo, through, valid = s.sample(u.x, v)
        value, density = s.evaluate(wo)
        weight = dr.select(valid & (density > 0), value / dr.maximum(density, 1e-20), 0.0)
        direction = frame.to_world(wo)
        agrees = (wo.z > 0) == (dr.dot(si.n, direction) * dr.dot(si.n, p.ray.d) < 0)
        weight = dr.select(agrees, weight, 0.0)
        floor_direction, floor_weight, mirrored = floor.sample(u.x, v, mi.Vector3f(-p.ray.d))
        direction = dr.select(on_floor, floor_direction, direction)
        weight = dr.select(on_floor, floor_weight, weight)
        walks_on = hit & ~on_floor & s.clear & through
        p.beta *= weight
        p.last_point = dr.select(walks_on, p.last_point, si.p)
        floor_density = dr.select(mirrored, 0.0, dr.maximum(direction.z, 0.0) * dr.inv_pi * (1 - floor.mirror))
        p.last_density = dr.select(walks_on, p.last_density, dr.select(on_floor, floor_density, density))
        p.open &= walks_on
        p.from_floor = dr.select(walks_on, p.from_floor, on_floor & mirrored)
        p.depth += 1
        p.ray = si.spawn_ray(direction)
        peak = dr.max(p.beta)
        p.active = hit & (peak > 0) & (p.depth < MAX_BOUNCES)
        survive = dr.select(p.depth > ROULETTE_AFTER, dr.clip(peak, 0.05, 0.95), 1.0)
        p.active &= u.y < survive
        p.beta /= survive


class Floor:
    """The floor at a hit: a matt body in the backdrop's colour under a mirror lobe that fades outwards."""

    def __init__(self, bounce: Bounce, p: Path, si: mi.SurfaceInteraction3f, on_floor: mi.Bool) -> None:
        self.albedo, self.on_floor = bounce.floor_albedo, on_floor
        far = dr.norm(mi.Point2f(si.p.x, si.p.y) - bounce.center) / bounce.radius
        cos = dr.clip(dr.abs(p.ray.d.z), 0.0, 1.0)
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
        return opacity, mirror, microfacet.alpha(dr.lerp(0.2, 0.6, smoothstep(0.6, 2.5, far)))

    def sample(self, pick: mi.Float, v: mi.Point2f, view: mi.Vector3f) -> tuple[mi.Vector3f, mi.Color3f, mi.Bool]:
        """Direction, weight and whether the mirror lobe was taken."""

        def draw(v: mi.Point2f, view: mi.Vector3f) -> tuple[mi.Vector3f, mi.Color3f]:
            wi = mi.Vector3f(view.x, view.y, dr.maximum(view.z, 1e-4))
            h = microfacet.sample_visible(wi, self.alpha, v)
            glint = 2.0 * dr.dot(wi, h) * h - wi
            diffuse = mi.warp.square_to_cosine_hemisphere(v)
            weight = dr.select(mirrored, mi.Color3f(dr.select(glint.z > 0, 1.0, 0.0)), self.albedo)
            return dr.select(mirrored, glint, diffuse), weight

        mirrored = pick < self.mirror
        direction, weight = dr.if_stmt(
            (v, view), self.on_floor, draw, lambda v, view: (view, dr.zeros(mi.Color3f)), label="floor sample"
        )
        return direction, weight, mirrored


def transmittance(world: World, ray: mi.Ray3f, active: mi.Bool) -> mi.Color3f:
    """Share of light that comes along a shadow ray: 0 behind opaque parts, dimmed and tinted by clear walls."""
    if not world.has_clear:
        return mi.Color3f(dr.select(world.scene.ray_test(ray, False, active), 0.0, 1.0))

    def body(
        active: mi.Bool, ray: mi.Ray3f, share: mi.Color3f, walls: mi.UInt32
    ) -> tuple[mi.Bool, mi.Ray3f, mi.Color3f, mi.UInt32]:
        near = world.scene.ray_intersect_preliminary(ray, False, False, active)
        hit = active & near.is_valid()
        index = world.appearance_of(near, hit)
        kind, _ = world.table.block("kind", index, hit)
        # Most rays end at an opaque part: only clear walls are worth the full interaction.
        clear = hit & (kind.z > 0.5) & (kind.x < CLEAR_ROUGHNESS)
        passed = dr.if_stmt(
            (ray,),
            clear,
            lambda ray: wall(
                world, near.compute_surface_interaction(ray, mi.RayFlags.Minimal, clear), ray, index, clear
            ),
            lambda ray: dr.zeros(mi.Color3f),
            label="wall",
        )
        share = dr.select(hit, dr.select(clear, share * passed, 0.0), share)
        walls += 1
        share = dr.select(hit & (walls >= SHADOW_WALLS), 0.0, share)
        go = clear & (dr.max(share) > 1e-4) & (walls < SHADOW_WALLS)
        # Offset as a spawned ray would be: by the float spacing at the point, not at the ray's length.
        step = near.t + dr.max(dr.abs(ray(near.t))) * 2e-6 + near.t * 2e-6
        onward = mi.Ray3f(ray(step), ray.d)
        onward.maxt = ray.maxt - step
        return go, dr.select(go, onward, ray), share, walls

    n = dr.width(ray)
    share = dr.full(mi.Color3f, 1.0, n)
    _, _, share, _ = dr.while_loop(
        state=(mi.Bool(active), mi.Ray3f(ray), share, dr.zeros(mi.UInt32, n)),
        cond=lambda active, *_: active,
        body=body,
        label="shadow",
    )
    return share


def wall(world: World, si: mi.SurfaceInteraction3f, ray: mi.Ray3f, index: mi.UInt32, active: mi.Bool) -> mi.Color3f:
    """What a clear wall lets straight through: by reciprocity both of its sides have the outer Fresnel."""
    _, metalness = world.table.block("base", index, active)
    kind, thin = world.table.block("kind", index, active)
    tint, _ = world.table.block("tint", index, active)
    absorption, _ = world.table.block("absorption", index, active)
    cos = dr.dot(si.n, ray.d)
    f, _ = microfacet.dielectric(dr.abs(cos), kind.y)
    f = dr.select(thin > 0.5, 2 * f / (1 + f), f)
    leaving = (thin < 0.5) & (cos > 0)
    along = dr.select(leaving, dr.exp(-absorption * si.t), mi.Color3f(1.0))
    return along * tint * (kind.z * (1 - metalness) * (1 - f))


def power_heuristic(a: mi.Float, b: mi.Float) -> mi.Float:
    """Veach's power heuristic with exponent 2."""
    a2, b2 = dr.square(a), dr.square(b)
    return dr.select(a2 > 0, a2 / dr.maximum(a2 + b2, 1e-30), 0.0)


def smoothstep(low: float, high: float, x: mi.Float) -> mi.Float:
    t = dr.clip((x - low) / (high - low), 0.0, 1.0)
    return t * t * (3 - 2 * t)
