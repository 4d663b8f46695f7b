"""The surface model as a Mitsuba surface, `openpbr_surface`: any of its integrators and tests can use the same kernel.

Our own integrator does not go through it: there all appearances of a scene share one table and one kernel, without a
virtual call for each. What needs an integrator that knows of it (absorption along the way, the walk in a dense body,
cut-outs) is therefore not in this class; it refuses such parameters.
"""

from __future__ import annotations

from typing import Any

from usual_lamp.core.appearance import Appearance, OpenPBR
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface.bsdf import Surface
from usual_lamp.core.trace.surface.rows import table_of

NAME = "openpbr_surface"
CLOSE = 0.1
"""Roughness below which a lobe is flagged as glossy only by name; densities are finite all the same."""


class OpenPBRSurface(mi.BSDF):  # type: ignore[misc]
    """Parameters by their OpenPBR names: floats, booleans, names of measured metals, and `rgb` colours.

    Raises ValueError for what only our integrator can follow.
    """

    def __init__(self, props: Any) -> None:
        super().__init__(props)
        asked = {name: _plain(props[name]) for name in props.keys() if name in OpenPBR.model_fields}  # noqa: SIM118
        p = OpenPBR(**asked)
        solid = not p.geometry_thin_walled
        walks = p.subsurface_weight > 0 and solid
        absorbs = p.transmission_weight > 0 and p.transmission_depth > 0 and solid
        if walks or absorbs or p.geometry_opacity < 1:
            raise ValueError("Dense bodies, colour at a depth and opacity need the tracer's own integrator.")
        self.thin = p.geometry_thin_walled
        self.solid_glass = p.transmission_weight > 0 and solid
        self.passes = p.transmission_weight > 0 or p.subsurface_weight > 0
        self.table = table_of([Appearance(id=NAME, name=NAME, family="neutral", params=p)])
        flags = mi.BSDFFlags.FrontSide | mi.BSDFFlags.BackSide
        lobes = [mi.BSDFFlags.DiffuseReflection | flags, mi.BSDFFlags.GlossyReflection | flags]
        if self.passes:
            lobes += [mi.BSDFFlags.GlossyTransmission | mi.BSDFFlags.NonSymmetric | flags]
        self.m_components = [int(lobe) for lobe in lobes]
        self.m_flags = _all(self.m_components)

    def _surface(self, si: mi.SurfaceInteraction3f, active: mi.Bool) -> tuple[Surface, mi.Bool, mi.Bool]:
        """The surface seen from above, whether it had to be turned over for that, and whether it can be seen so."""
        below = si.wi.z < 0
        inside = below & self.solid_glass
        wi = mi.Vector3f(si.wi.x, si.wi.y, dr.maximum(dr.abs(si.wi.z), 1e-4))
        index = dr.zeros(mi.UInt32, dr.width(wi))
        return Surface(self.table, index, mi.Bool(active), dr.normalize(wi), inside), below, mi.Bool(active)

    def _radiance(self, ctx: Any, surface: Surface, wo: mi.Vector3f) -> mi.Float:
        """A denser medium squeezes radiance by the square of the index; our kernels count power."""
        if ctx.mode != mi.TransportMode.Radiance or not self.solid_glass:
            return mi.Float(1.0)
        return dr.select(wo.z < 0, dr.rcp(dr.square(surface.eta)), 1.0)

    def sample(
        self, ctx: Any, si: mi.SurfaceInteraction3f, sample1: mi.Float, sample2: mi.Point2f, active: mi.Bool = True
    ) -> tuple[mi.BSDFSample3f, mi.Color3f]:
        """Sample the surface, see `mitsuba.BSDF.sample`."""
        surface, below, active = self._surface(si, active)
        drawn = surface.sample(sample1, sample2)
        value, density = surface.evaluate(drawn.wo)
        valid = active & drawn.valid & (density > 0)
        found = dr.zeros(mi.BSDFSample3f, dr.width(drawn.wo))
        found.wo = _turned(drawn.wo, below)
        found.pdf = dr.select(valid, density, 0.0)
        passing = drawn.wo.z < 0
        found.eta = dr.select(passing & drawn.through & ~mi.Bool(self.thin), surface.eta, 1.0)
        kind = dr.select(drawn.broad & ~drawn.through, self.m_components[0], self.m_components[1])
        found.sampled_type = dr.select(passing, self.m_components[-1], kind)
        found.sampled_component = dr.select(passing, len(self.m_components) - 1, 0)
        weight = value.total() * self._radiance(ctx, surface, drawn.wo) / dr.maximum(density, 1e-20)
        return found, dr.select(valid, weight, 0.0)

    def eval(self, ctx: Any, si: mi.SurfaceInteraction3f, wo: mi.Vector3f, active: mi.Bool = True) -> mi.Color3f:
        """Return f(wi, wo) |cos_o|, see `mitsuba.BSDF.eval`."""
        return self.eval_pdf(ctx, si, wo, active)[0]

    def pdf(self, ctx: Any, si: mi.SurfaceInteraction3f, wo: mi.Vector3f, active: mi.Bool = True) -> mi.Float:
        """Return the pdf of `sample`, 1/sr."""
        return self.eval_pdf(ctx, si, wo, active)[1]

    def eval_pdf(
        self, ctx: Any, si: mi.SurfaceInteraction3f, wo: mi.Vector3f, active: mi.Bool = True
    ) -> tuple[mi.Color3f, mi.Float]:
        """Return `eval` and `pdf` together."""
        surface, below, active = self._surface(si, active)
        out = _turned(wo, below)
        value, density = surface.evaluate(out)
        total = value.total() * self._radiance(ctx, surface, out)
        return dr.select(active, total, 0.0), dr.select(active, density, 0.0)

    def to_string(self) -> str:
        """Return the name of the plugin."""
        return f"{NAME}[]"


def _turned(w: mi.Vector3f, below: mi.Bool) -> mi.Vector3f:
    return mi.Vector3f(w.x, w.y, dr.select(below, -w.z, w.z))


def _all(flags: list[int]) -> int:
    found = 0
    for flag in flags:
        found |= flag
    return found


def _plain(value: Any) -> Any:
    """A property as OpenPBR takes it."""
    if isinstance(value, (bool, int, float, str)):
        return value
    return tuple(float(v) for v in value)


mi.register_bsdf(NAME, OpenPBRSurface)
