"""What a path arrives at: steps of a walk, cut-outs, and walls of nested bodies."""

from __future__ import annotations

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.sampler import PixelSampler
from usual_lamp.core.trace.transport import walk
from usual_lamp.core.trace.transport.interior import Interior, Wall, meet
from usual_lamp.core.trace.transport.path import Path
from usual_lamp.core.trace.transport.shadow import covered
from usual_lamp.core.trace.world.world import World


class Arrival:
    """Arrivals in one world."""

    def __init__(self, world: World) -> None:
        self.world = world

    def walk(self, p: Path) -> None:
        """Take each walking lane from scattering to scattering until it meets a wall, or ends there by chance.

        One that finds no wall has come to a hole in an open shell, and goes out there as it is. The walk is a loop of
        its own, so that a few long walks do not drag a packet through the shading of walls that nobody meets.
        """
        body = p.body

        def scatter(
            walking: mi.Bool,
            ray: mi.Ray3f,
            near: mi.PreliminaryIntersection3f,
            beta: mi.Color3f,
            sampler: PixelSampler,
            steps: mi.UInt32,
            active: mi.Bool,
        ) -> tuple[mi.Bool, mi.Ray3f, mi.PreliminaryIntersection3f, mi.Color3f, PixelSampler, mi.UInt32, mi.Bool]:
            """One step: who walks on, its ray, what that meets, the path's weight, and whether it has ended."""
            u, v = sampler.next_2d(), sampler.next_2d()
            step = walk.step(self.world.table, body, ray, near.t, walking & near.is_valid(), u, v)
            beta = dr.select(walking, beta * step.weight, beta)
            steps += dr.select(step.stays, 1, 0)
            luck = dr.select(steps > walk.CALM, dr.clip(dr.max(beta), 0.05, 0.98), 1.0)
            goes_on = step.stays & (sampler.next_2d().x < luck) & (steps < walk.MOST_STEPS)
            beta = dr.select(goes_on, beta / luck, beta)
            active &= ~step.stays | goes_on
            ray = dr.select(goes_on, step.ray, ray)
            near = dr.select(goes_on, self.world.near(ray, False, goes_on), near)
            return goes_on, ray, near, beta, sampler, steps, active

        _, p.ray, p.near, p.beta, p.sampler, p.steps, p.active = dr.while_loop(
            state=(p.active & p.walking, p.ray, p.near, p.beta, p.sampler, p.steps, p.active),
            cond=lambda walking, *_: walking,
            body=scatter,
            label="walk",
        )

    @staticmethod
    def leaves(p: Path, si: mi.SurfaceInteraction3f, met: mi.Bool) -> mi.Bool:
        """Lanes that reach their body's wall from within; who has met a wall does not walk on."""
        leaving = met & p.walking & (dr.dot(si.n, p.ray.d) > 0)
        p.walking = mi.Bool(False)
        return leaving

    def cut_outs(self, p: Path, si: mi.SurfaceInteraction3f, index: mi.UInt32, hit: mi.Bool) -> mi.Bool:
        """Lanes that pass where the surface is not there, in proportion to its opacity, or is not shown to them."""
        passes = hit & self.world.looks_through(index, p.open | p.from_floor)
        if self.world.has_ground:
            passes |= hit & (p.open | p.from_floor) & self.world.fades(si, index, p.sampler.next_2d().x)
        opacity = covered(self.world, si, index, hit)
        if opacity is not None:
            passes |= hit & (p.sampler.next_2d().x >= opacity) & self.world.is_part(index)
        p.steps += dr.select(passes, 1, 0)
        return passes

    def nested(self, p: Path, si: mi.SurfaceInteraction3f, index: mi.UInt32, hit: mi.Bool, passes: mi.Bool) -> Wall:
        """What the way up to the hit has taken away, and what kind of wall there is."""
        table = self.world.table
        part = hit & self.world.is_part(index)
        kind, thin = table.block("kind", index, part)
        solid = part & ~passes & (kind.z > 0) & (thin < 0.5)
        entering = dr.dot(si.n, p.ray.d) < 0

        def met(interior: Interior) -> tuple[mi.Color3f, Wall]:
            """The share of light that has come here, and the wall."""
            body = self.world.placements.part(si.shape, part) + 1
            lasting = interior.lasting(table, index, solid & ~entering, si.t, hit)
            return lasting, meet(table, interior, body, index, entering, solid)

        lasting, wall = dr.if_stmt(
            (p.interior,),
            solid | (hit & p.interior.is_within_any()),
            met,
            lambda interior: (mi.Color3f(1.0), Wall.none(interior)),
            label="nested",
        )
        p.beta *= lasting
        p.beta *= wall.tint
        p.interior = wall.crossed.where(wall.passed, p.interior)
        p.steps += dr.select(wall.passed, 1, 0)
        return wall
