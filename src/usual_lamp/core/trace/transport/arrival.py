"""What a path arrives at: steps of a walk, cut-outs, walls of nested bodies, and the surface with its frame."""

from __future__ import annotations

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.sampler import PixelSampler
from usual_lamp.core.trace.surface.bsdf import Surface
from usual_lamp.core.trace.surface.covering import Covering
from usual_lamp.core.trace.transport import walk
from usual_lamp.core.trace.transport.interior import Interior, Wall, meet
from usual_lamp.core.trace.transport.path import Hit, Path
from usual_lamp.core.trace.transport.shadow import covered
from usual_lamp.core.trace.world.floor import Floor, FloorNumbers, Gloss
from usual_lamp.core.trace.world.pictures import Dress
from usual_lamp.core.trace.world.world import World

class Arrival:
    """Arrivals in one world."""

    def __init__(self, world: World) -> None:
        self.world = world
        self.has = world.table.has
        albedo = mi.Color3f(*(dr.opaque(mi.Float, float(v)) for v in world.floor_albedo))
        self.floor = FloorNumbers.of(world.inputs, albedo)

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
        ) -> tuple[
            mi.Bool, mi.Ray3f, mi.PreliminaryIntersection3f, mi.Color3f, PixelSampler, mi.UInt32, mi.Bool
        ]:
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

    def hit(
        self,
        p: Path,
        si: mi.SurfaceInteraction3f,
        index: mi.UInt32,
        valid: mi.Bool,
        leaving: mi.Bool,
        wall: Wall | None,
    ) -> Hit:
        """The surface at the hit in a frame that faces the viewer, bent back where interpolation turned it away."""
        on_floor = valid & (index == self.world.floor_number) if self.world.has_floor else mi.Bool(False)
        behind = dr.dot(si.n, p.ray.d) > 0
        away = behind ^ leaving
        n = dr.select(away, -si.sh_frame.n, si.sh_frame.n)
        n = dr.select(dr.dot(n, n) > 0.5, n, dr.select(away, -si.n, si.n))
        dress = None
        if self.world.pictures is not None:
            base, _ = self.world.table.block("base", index, valid)
            kind, _ = self.world.table.block("kind", index, valid)
            blank = Dress(base, kind.x, mi.Float(1.0), n)
            # A floor that reflects like an appearance is the only one that pictures lie on.
            dress = self.world.pictures.dress(si, blank, valid if self.world.has_catcher else valid & ~on_floor)
            n = dress.normal
        view = dr.select(leaving, p.ray.d, -p.ray.d)
        cos = dr.dot(n, view)
        n = dr.normalize(n - view * dr.minimum(cos - 0.005, 0.0))
        frame = self._frame(si, n, index, valid)
        kind, thin = self.world.table.block("kind", index, valid)
        solid = (kind.z > 0) & (thin < 0.5)
        wi = frame.to_local(view)
        wi.z = dr.maximum(wi.z, 1e-4)
        inside = behind & solid & ~leaving
        over = frame.to_local(dress.coat_normal) if dress and dress.coat_normal is not None else None
        covering = None
        if dress is not None:
            covering = Covering(dress.color, dress.roughness, dress.printed, dress.foil, dress.glow)
        surface = Surface(
            self.world.table,
            index,
            valid,
            dr.normalize(wi),
            inside,
            covering=covering,
            over=over,
            beyond=wall.beyond.optics(self.world.table) if wall else None,
        )
        gloss = self._gloss(n, surface) if self.world.has_catcher else None
        floor = Floor(self.floor, p.ray, si.p, on_floor, gloss)
        return Hit(si, valid, on_floor, leaving, surface, frame, floor, wall)

    def _gloss(self, n: mi.Vector3f, surface: Surface) -> Gloss:
        """What the floor reflects like: an appearance, or as its finish says where it is a plain one now."""
        wears = dr.opaque(mi.Bool, self.world.inputs.shows_catcher)
        return Gloss(
            dr.select(wears, n, self.floor.axes.n),
            dr.select(wears, surface.roughness, self.floor.roughness),
            dr.select(wears, surface.metalness, 0.0),
            surface.base,
        )

    def _frame(self, si: mi.SurfaceInteraction3f, n: mi.Vector3f, index: mi.UInt32, valid: mi.Bool) -> mi.Frame3f:
        """The local frame: its x-axis along the brushing, turned as the appearance asks, where any is brushed."""
        if not self.has.brushed:
            return mi.Frame3f(n)
        grain, _ = self.world.table.block("grain", index, valid)
        brushed = valid & (grain.z > 0)
        way = self.world.placements.brushing(si, brushed)
        flat = way - n * dr.dot(n, way)
        length = dr.norm(flat)
        usual = mi.Frame3f(n)
        along = dr.select(brushed & (length > 1e-3 * dr.norm(way)), flat / dr.maximum(length, 1e-12), usual.s)
        s = along * grain.x + dr.cross(n, along) * grain.y
        s = dr.select(brushed, s, usual.s)
        return mi.Frame3f(s, dr.cross(n, s), n)

    @staticmethod
    def absorb(p: Path, hit: Hit) -> None:
        """Beer's law along the way through a solid that the ray is about to leave."""
        s = hit.surface
        if not s.table.has.glass:
            return
        within = hit.on_part & s.inside
        absorption, _ = s.table.block("absorption", s.index, within)
        p.beta = dr.select(within, p.beta * dr.exp(-absorption * hit.si.t), p.beta)
