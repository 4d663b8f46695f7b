"""What comes along a shadow ray: light passes clear walls and cut-outs straight on, but for what decals cover or dull.

A wall lets pass here what `Surface.clear` leaves to shadow rays, and nothing else: all other light is found by paths,
and would count twice.
"""

from __future__ import annotations

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface import microfacet
from usual_lamp.core.trace.surface.bsdf import CLEAR_ROUGHNESS
from usual_lamp.core.trace.surface.covering import Covering
from usual_lamp.core.trace.transport.interior import Interior, meet
from usual_lamp.core.trace.world.pictures import Dress
from usual_lamp.core.trace.world.world import World

SHADOW_WALLS = 64
"""Clear walls and cut-outs that a shadow ray passes at most; more are as good as opaque."""


def transmittance(
    world: World, ray: mi.Ray3f, active: mi.Bool, interior: Interior
) -> tuple[mi.Color3f, mi.Float | float]:
    """Share of light that comes along a shadow ray: 0 behind opaque parts, dimmed and tinted by clear walls. And how
    much smaller the solid angle is at its start, within `interior`, than at its end, for the same light: by the
    square of the index (conservation of étendue; M. F. Modest, Radiative Heat Transfer, section 18.2).
    """
    if not world.has_clear:
        return mi.Color3f(dr.select(world.scene.ray_test(ray, False, active), 0.0, 1.0)), 1.0

    def body(
        active: mi.Bool, ray: mi.Ray3f, share: mi.Color3f, walls: mi.UInt32, interior: Interior
    ) -> tuple[mi.Bool, mi.Ray3f, mi.Color3f, mi.UInt32, Interior]:
        """One step to the next wall: whether the ray goes on, the ray from there, its share, walls passed, and where it
        is."""
        near = world.near(ray, False, active)
        hit = active & near.is_valid()
        index = world.appearance_of(near, hit)
        kind, _ = world.table.block("kind", index, hit)
        # Most rays end at an opaque part: only walls that let something through are worth the full interaction.
        glass = hit & (kind.z > 0.5)
        clear = glass & (kind.x < CLEAR_ROUGHNESS)
        if world.table.has.cut_out:
            clear |= hit & (world.table.block("grain", index, hit)[1] < 1)
        if world.pictures is not None:
            clear |= hit & world.pictures.may_change("opacity", near.shape, hit)
            clear |= glass & world.pictures.may_change("roughness", near.shape, glass)
        passed, interior = dr.if_stmt(
            (ray, interior),
            clear,
            lambda ray, interior: wall(world, world.hit_at(near, clear), ray, index, clear, interior),
            lambda ray, interior: (dr.zeros(mi.Color3f), interior),
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
        return go, dr.select(go, onward, ray), share, walls, interior

    n = dr.width(ray)
    share = dr.full(mi.Color3f, 1.0, n)
    _, _, share, _, left = dr.while_loop(
        state=(mi.Bool(active), mi.Ray3f(ray), share, dr.zeros(mi.UInt32, n), interior.where(active, interior)),
        cond=lambda active, *_: active,
        body=body,
        label="shadow",
    )
    if not interior.bodies:
        return share, 1.0
    start, end = interior.ior(world.table, active), left.ior(world.table, active)
    return share, dr.square(end / start)


def wall(
    world: World, si: mi.SurfaceInteraction3f, ray: mi.Ray3f, index: mi.UInt32, active: mi.Bool, interior: Interior
) -> tuple[mi.Color3f, Interior]:
    """What a wall lets straight through, and where the ray is then: by reciprocity both of its sides have the outer
    Fresnel."""
    base, metalness = world.table.block("base", index, active)
    kind, thin = world.table.block("kind", index, active)
    tint, _ = world.table.block("tint", index, active)
    absorption, _ = world.table.block("absorption", index, active)
    cos = dr.dot(si.n, ray.d)
    outer, ior, solid, crossed = dr.abs(cos), kind.y, active & (thin < 0.5) & (kind.z > 0), None
    if interior.bodies:
        body = world.placements.part(si.shape, active) + 1
        crossed = meet(world.table, interior, body, index, cos < 0, solid)
        beside, beyond_tint = crossed.beyond.optics(world.table)
        # The ray is straight, so its angle is that in air; within what is outside of the wall it is Snell's.
        outer = dr.safe_sqrt(1 - (1 - dr.square(cos)) / dr.square(beside))
        ior, tint = ior / beside, tint * beyond_tint
    f, _ = microfacet.dielectric(outer, ior)
    f = dr.select(thin > 0.5, 2 * f / (1 + f), f)
    leaving = (thin < 0.5) & (cos > 0)
    roughness, transmission, opacity = kind.x, kind.z, None
    if world.table.has.cut_out:
        opacity = world.table.block("grain", index, active)[1]
    if world.pictures is not None and world.pictures.on_walls:
        blank = Dress(base, roughness, mi.Float(1.0) if opacity is None else opacity, si.n)
        dress = world.pictures.dress(si, blank, active)
        covering = Covering(dress.color, dress.roughness, dress.printed, dress.foil)
        metalness, transmission = covering.body(metalness, transmission)
        roughness, opacity = dress.roughness, dress.opacity
    glass = (1 - metalness) * transmission
    passed = tint * dr.select((glass > 0.5) & (roughness < CLEAR_ROUGHNESS), glass * (1 - f), 0.0)
    if crossed is None:
        passed *= dr.select(leaving, dr.exp(-absorption * si.t), 1.0)
    if opacity is not None:
        passed = dr.lerp(mi.Color3f(1.0), passed, opacity)
    if crossed is not None:
        lasting = interior.lasting(world.table, index, solid & leaving, si.t, active)
        passed = lasting * dr.select(crossed.passed, crossed.tint, passed)
        interior = crossed.crossed.where(solid, interior)
    return passed, interior


def covered(world: World, si: mi.SurfaceInteraction3f, index: mi.UInt32, active: mi.Bool) -> mi.Float | None:
    """Opacity at a hit; None where nothing in the scene is cut out."""
    opacity = world.table.block("grain", index, active)[1] if world.table.has.cut_out else None
    if world.pictures is not None:
        opacity = world.pictures.opacity(si, mi.Float(1.0) if opacity is None else opacity, active)
    return opacity
