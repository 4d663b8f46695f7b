"""Shading of parts: all that one step of a path needs of the surface that it meets, in one branch of the kernel.

Packets of paths that have met the floor alone leave it out. They are a third to a half of all steps.
"""

from __future__ import annotations

from dataclasses import dataclass

from usual_lamp.core.trace.engine import dr, in_this_scope, mi
from usual_lamp.core.trace.surface.bsdf import Surface
from usual_lamp.core.trace.surface.covering import Covering
from usual_lamp.core.trace.surface.scattered import Drawn, Scattered
from usual_lamp.core.trace.transport import book
from usual_lamp.core.trace.transport.path import Hit
from usual_lamp.core.trace.world.floor import FloorNumbers, Gloss
from usual_lamp.core.trace.world.pictures import Dress
from usual_lamp.core.trace.world.world import World


@dataclass
class Guide:
    """What guides the denoiser."""

    color: mi.Color3f
    normal: mi.Vector3f
    reflects: mi.Bool
    """A mirror or a clear wall: what lies beyond it guides instead."""
    mirror: mi.Color3f
    """By what such a mirror colours that."""


@dataclass
class LightResponse:
    """The BSDF for light from the direction that a light sample comes from."""

    value: Scattered
    density: mi.Float
    """Of scattering that way, per steradian."""
    agrees: mi.Bool
    """It lies on the same side of the shading and of the true surface."""
    below: mi.Bool


@dataclass
class BsdfSample:
    """A direction of scattering drawn from the BSDF, in the world."""

    direction: mi.Vector3f
    weight: mi.Color3f
    density: mi.Float
    """Per steradian; 0 where no light sampling competes."""
    kind: mi.UInt32
    """Of this event, see `book`."""
    walks_on: mi.Bool
    """Straight through a clear wall, which is no scattering."""
    enters: mi.Bool
    """Into a dense body."""
    crosses: mi.Bool
    """Into or out of a clear one."""
    bend: mi.Float
    """Density per steradian after bending over that before."""


@dataclass
class Shading:
    """Per lane (a Dr.Jit pytree); nothing in lanes that have met no part."""

    lasting: mi.Color3f
    """Share of light that the way through its body lets come here."""
    emission: mi.Color3f
    """cd/m²."""
    glow: mi.Color3f | None
    """cd/m² of pictures that glow, where there may be any."""
    guide: Guide
    light: LightResponse
    sample: BsdfSample
    gloss: Gloss | None
    """What the floor reflects like, where it may be an appearance."""


class SurfaceShader:
    """Shades the parts of one world."""

    def __init__(self, world: World, floor: FloorNumbers) -> None:
        self.world, self.floor, self.has = world, floor, world.table.has

    def __call__(self, hit: Hit, ray: mi.Ray3f, to_light: mi.Vector3f, pick: mi.Float, v: mi.Point2f) -> Shading:
        """The shading at a hit of `ray`: for light from `to_light` (unit, world), and with a direction drawn by random
        `pick` and `v`."""
        # A floor that reflects like an appearance has a surface, too.
        shaded = hit.valid if self.world.has_catcher else hit.on_part
        found = dr.if_stmt(
            (mi.Vector3f(ray.d), mi.Vector3f(to_light), pick, v),
            shaded,
            lambda d, to_light, pick, v: self._shaded(hit, shaded, d, to_light, pick, v),
            lambda d, to_light, pick, v: self._nothing(d),
            label="surface",
        )
        return in_this_scope(found)  # type: ignore[no-any-return]

    def _nothing(self, d: mi.Vector3f) -> Shading:
        """What lanes hold that have met no part."""
        black, no, zero = mi.Color3f(0.0), mi.Bool(False), mi.Float(0.0)
        return Shading(
            mi.Color3f(1.0),
            black,
            mi.Color3f(0.0) if self.world.pictures is not None and "emission" in self.world.pictures.targets else None,
            Guide(black, mi.Vector3f(0.0), no, black),
            LightResponse(Scattered(black, black, black), zero, no, no),
            BsdfSample(d, black, zero, mi.UInt32(book.NONE), no, no, no, mi.Float(1.0)),
            Gloss(mi.Vector3f(0.0), zero, zero, black) if self.world.has_catcher else None,
        )

    def _shaded(
        self, hit: Hit, active: mi.Bool, d: mi.Vector3f, to_light: mi.Vector3f, pick: mi.Float, v: mi.Point2f
    ) -> Shading:
        """The shading of lanes that have met a surface."""
        s, frame, glow = self._surface(hit, active, d)
        return Shading(
            self._lasting(hit, s),
            mi.Color3f(s.emission),
            glow,
            self._guide(hit, s, frame),
            self._light_response(hit, s, d, to_light, frame.to_local(to_light)),
            self._bsdf_sample(hit, s, frame, d, pick, v),
            self._gloss(frame.n, s) if self.world.has_catcher else None,
        )

    # -- the surface ----------------------------------------------------------------------------------------

    def _surface(self, hit: Hit, active: mi.Bool, d: mi.Vector3f) -> tuple[Surface, mi.Frame3f, mi.Color3f | None]:
        """The surface at the hit, and what glows of its pictures; in a frame that faces the viewer, bent back where
        interpolation turned it away."""
        si, index = hit.si, hit.index
        behind = dr.dot(si.n, d) > 0
        away = behind ^ hit.leaving
        n = dr.select(away, -si.sh_frame.n, si.sh_frame.n)
        n = dr.select(dr.dot(n, n) > 0.5, n, dr.select(away, -si.n, si.n))
        dress = None
        if self.world.pictures is not None:
            base, _ = self.world.table.block("base", index, active)
            kind, _ = self.world.table.block("kind", index, active)
            dress = self.world.pictures.dress(si, Dress(base, kind.x, mi.Float(1.0), n), active)
            n = dress.normal
        view = dr.select(hit.leaving, d, -d)
        cos = dr.dot(n, view)
        n = dr.normalize(n - view * dr.minimum(cos - 0.005, 0.0))
        frame = self._frame(si, n, index, active)
        kind, thin = self.world.table.block("kind", index, active)
        solid = (kind.z > 0) & (thin < 0.5)
        wi = frame.to_local(view)
        wi.z = dr.maximum(wi.z, 1e-4)
        over = frame.to_local(dress.coat_normal) if dress and dress.coat_normal is not None else None
        covering = None
        if dress is not None:
            covering = Covering(dress.color, dress.roughness, dress.printed, dress.foil)
        surface = Surface(
            self.world.table,
            index,
            active,
            dr.normalize(wi),
            behind & solid & ~hit.leaving,
            covering=covering,
            over=over,
            beyond=hit.wall.beyond.optics(self.world.table) if hit.wall else None,
        )
        return surface, frame, dress.glow if dress else None

    def _frame(self, si: mi.SurfaceInteraction3f, n: mi.Vector3f, index: mi.UInt32, active: mi.Bool) -> mi.Frame3f:
        """The local frame: its x-axis along the brushing, turned as the appearance asks, where any is brushed."""
        if not self.has.brushed:
            return mi.Frame3f(n)
        grain, _ = self.world.table.block("grain", index, active)
        brushed = active & (grain.z > 0)
        way = self.world.placements.brushing(si, brushed)
        flat = way - n * dr.dot(n, way)
        length = dr.norm(flat)
        usual = mi.Frame3f(n)
        along = dr.select(brushed & (length > 1e-3 * dr.norm(way)), flat / dr.maximum(length, 1e-12), usual.s)
        s = along * grain.x + dr.cross(n, along) * grain.y
        s = dr.select(brushed, s, usual.s)
        return mi.Frame3f(s, dr.cross(n, s), n)

    # -- what it says ---------------------------------------------------------------------------------------

    def _lasting(self, hit: Hit, s: Surface) -> mi.Color3f:
        """Beer's law along the way through a solid that the ray is about to leave. Bodies that nest see to it
        themselves."""
        if hit.wall is not None or not self.has.glass:
            return mi.Color3f(1.0)
        within = hit.on_part & s.inside
        absorption, _ = s.table.block("absorption", s.index, within)
        return dr.select(within, dr.exp(-absorption * hit.si.t), 1.0)

    def _guide(self, hit: Hit, s: Surface, frame: mi.Frame3f) -> Guide:
        """Base or body colour, and the shading normal."""
        color = dr.lerp(s.base, s.tint, s.glass)
        if self.has.subsurface:
            color = dr.lerp(color, s.body_color, s.body_share)
        color = dr.select(dr.max(s.emission) > 0, 1.0, color)
        mirror = dr.lerp(mi.Color3f(1.0), s.base, s.metalness)
        return Guide(color, mi.Vector3f(frame.n), hit.on_part & s.mirrors & ~hit.leaving, mirror)

    def _light_response(
        self, hit: Hit, s: Surface, d: mi.Vector3f, direction: mi.Vector3f, wo: mi.Vector3f
    ) -> LightResponse:
        """By the BSDF; of a walk that leaves its body, by what the wall lets out."""
        # What passes a clear wall's facets is left to the shadow rays of other points; what it spreads is sought here.
        value, density = s.evaluate(wo, straight=~s.clear)
        if self.has.subsurface:
            cos = dr.maximum(wo.z, 0.0)
            value = value.where(~hit.leaving)
            value.diffuse += dr.select(hit.leaving, s.leaving(cos, hit.leaving) * (cos * dr.inv_pi), 0.0)
            density = dr.select(hit.leaving, cos * dr.inv_pi, density)
        return LightResponse(value, mi.Float(density), hit.agrees(d, wo, direction), wo.z < 0)

    def _bsdf_sample(
        self, hit: Hit, s: Surface, frame: mi.Frame3f, d: mi.Vector3f, pick: mi.Float, v: mi.Point2f
    ) -> BsdfSample:
        """Drawn from the lobes; into a dense body, or out of one, by the cosine."""
        drawn = s.sample(pick, v)
        # A clear wall that was passed is no scattering: the two ways through it are drawn and weighted on their own.
        value, density = s.evaluate(drawn.wo, ~s.clear | drawn.through, ~s.clear | ~drawn.through)
        weight = dr.select(drawn.valid & (density > 0), value.total() / dr.maximum(density, 1e-20), 0.0)
        wo, density, enters = drawn.wo, mi.Float(density), mi.Bool(False)
        if self.has.subsurface:
            enters = hit.on_part & drawn.enters & ~hit.leaving
            wo, weight, density = self._in_and_out(hit, s, drawn, enters, v, weight, density)
        direction = frame.to_world(wo)
        weight = dr.select(hit.agrees(d, wo, direction), weight, 0.0)
        walks_on = hit.on_part & s.clear & drawn.through & ~hit.leaving
        crosses = hit.on_part & (wo.z < 0) & ~drawn.enters & ~hit.leaving
        # Bent light fills another solid angle, so its density per steradian is another.
        bent = dr.square(s.eta) * dr.abs(wo.z) / dr.maximum(s.wi.z, 1e-4)
        bend = dr.select(crosses & walks_on & ~s.thin, bent, 1.0)
        broad = drawn.broad & ~drawn.through
        kind = dr.select(broad, book.DIFFUSE, dr.select((wo.z < 0) | walks_on, book.PASSED, book.SPECULAR))
        return BsdfSample(direction, weight, density, mi.UInt32(kind), walks_on, enters, crosses, bend)

    @staticmethod
    def _in_and_out(
        hit: Hit, s: Surface, drawn: Drawn, enters: mi.Bool, v: mi.Point2f, weight: mi.Color3f, density: mi.Float
    ) -> tuple[mi.Vector3f, mi.Color3f, mi.Float]:
        """Paths that go into a dense body, and those that come out of one: direction, weight and density."""
        out = mi.warp.square_to_cosine_hemisphere(v)
        out.z = dr.maximum(out.z, 1e-5)
        weight = dr.select(enters, drawn.entry, dr.select(hit.leaving, s.leaving(out.z, hit.leaving), weight))
        density = dr.select(enters, 0.0, dr.select(hit.leaving, out.z * dr.inv_pi, density))
        return dr.select(hit.leaving, out, drawn.wo), weight, density

    def _gloss(self, n: mi.Vector3f, s: Surface) -> Gloss:
        """What the floor reflects like: an appearance, or as its finish says where it is a plain one now."""
        wears = dr.opaque(mi.Bool, self.world.inputs.shows_catcher)
        return Gloss(
            mi.Vector3f(dr.select(wears, n, self.floor.axes.n)),
            mi.Float(dr.select(wears, s.roughness, self.floor.roughness)),
            mi.Float(dr.select(wears, s.metalness, 0.0)),
            mi.Color3f(s.base),
        )
