"""The surface model: OpenPBR's base, metal, specular, transmission and coat, with energy kept.

Light that single scattering loses between rough facets is given back as a broad reciprocal lobe
f = (1 - E(i)) (1 - E(o)) / (π (1 - E_avg)), after C. Kulla and A. Conty, "Revisiting Physically Based Shading at
Imageworks", SIGGRAPH course 2017. The same form couples the diffuse base to the specular above it, so that a
white plastic returns all it receives, and an unlit-by-gloss colour measures as specified.

Local frame: wi towards the viewer with wi.z > 0 always (`frame_side` says which side of the wall that is).
"""

from __future__ import annotations

from dataclasses import dataclass

from usual_lamp.core.trace import microfacet
from usual_lamp.core.trace.diffuse import rough_diffuse
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.table import AppearanceTable, Four

LEAN = 0.006
"""What a fully rough diffuse base under gloss would gain at normal incidence (measured in the white furnace)."""
CLEAR_ROUGHNESS = 0.12
"""Transmission smoother than this lets shadow rays and picture guides through."""


def luminance(color: mi.Color3f) -> mi.Float:
    return mi.luminance(color)


@dataclass
class Surface:
    """Parameters of one hit per lane, with what depends on the view direction worked out once."""

    table: AppearanceTable
    index: mi.UInt32
    active: mi.Bool
    wi: mi.Vector3f
    inside: mi.Bool
    """wi comes from inside a solid: possible only for transmissive, not thin-walled appearances."""

    def __post_init__(self) -> None:
        read = lambda name: self.table.block(name, self.index, self.active)  # noqa: E731
        self.base, self.metalness = read("base")
        self.f82, self.specular_weight = read("specular")
        kind, thin = read("kind")
        self.roughness, self.ior, self.transmission = kind.x, kind.y, kind.z
        self.thin = thin > 0.5
        self.a = microfacet.alpha(self.roughness)
        self.tint, coat = read("tint")
        self.emission, self.mirror_average = read("emission")
        averages, self.diffuse_roughness = read("averages")
        self.reflected_average = averages.x
        # Inside a solid there is no coat and no metal: the wall is a plain dielectric interface.
        self.coat = dr.select(self.inside, 0.0, coat) if self.table.has_coat else mi.Float(0.0)
        self.opaque = (1 - self.metalness) * (1 - self.transmission)
        self.glass = (1 - self.metalness) * self.transmission
        self.eta = dr.select(self.inside, dr.rcp(self.ior), self.ior)
        self.clear = (self.glass > 0.5) & (self.roughness < CLEAR_ROUGHNESS)
        # A thin wall sends what it does not mirror straight on, so both sides lose alike.
        out = dr.select(self.thin, self.mirror_average, averages.y)
        within = dr.select(self.thin, self.mirror_average, averages.z)
        self.average_here = dr.select(self.inside, within, out)
        self.average_there = dr.select(self.inside, out, within)
        self._shares()

    def _shares(self) -> None:
        """Energy terms at wi, and the probability of each lobe."""
        cos = self.wi.z
        curves = self.table.curves(self.index, cos, self.active)
        self.mirror_i, self.spec_i = curves[0], self.specular_weight * curves[1]
        self.total_i = self._total(curves, self.inside)
        self.crossing = self._crossing()
        f0 = luminance(self.base)
        lost = (1 - self.mirror_i) * dr.square(f0)
        fresnel, _ = microfacet.dielectric(cos, self.eta)
        fresnel = dr.clip(dr.select(self.thin, 2 * fresnel / (1 + fresnel), fresnel), 0.0, 1.0)
        spec = self.metalness * f0 + self.opaque * self.spec_i + self.glass * fresnel
        diffuse = self.metalness * lost + self.opaque * f0 * (1 - self.spec_i) + self.glass * (1 - self.total_i)
        through = self.glass * (1 - fresnel) * luminance(self.tint)
        total = dr.maximum(spec + diffuse + through, 1e-6)
        self.p_coat = mi.Float(0.0)
        if self.table.has_coat:
            (_, coat_roughness), (self.coat_color, self.coat_ior) = (
                self.table.block(name, self.index, self.active) for name in ("absorption", "coat")
            )
            self.coat_a = microfacet.alpha(coat_roughness)
            self.coat_i = self.table.coat_curve(self.index, cos, self.active)
            mirrored = self.coat * self.coat_i
            self.p_coat = mirrored / dr.maximum(mirrored + (1 - mirrored) * total, 1e-6)
        self.p_spec, self.p_diffuse, self.p_through = (
            (1 - self.p_coat) * share / total for share in (spec, diffuse, through)
        )

    def _total(self, curves: Four, inside: mi.Bool) -> mi.Float:
        """Albedo of the glass share from single scattering, both ways together."""
        return dr.select(self.thin, curves[0], dr.select(inside, curves[3], curves[2]))

    def _crossing(self) -> mi.Float:
        """Share of the glass's multiply scattered light that leaves on the far side, by reciprocity.

        With x = (1 - crossing) per side, (1 - x_out) / (1 - A_in) must equal (1 - x_in) eta² / (1 - A_out); the
        choice below splits it in proportion to what each side loses, weighted by the solid angle factor.
        """
        n2 = dr.select(self.thin, 1.0, dr.square(self.eta))
        there = (1 - self.average_there) * n2
        return there / dr.maximum(there + (1 - self.average_here), 1e-6)

    def evaluate(self, wo: mi.Vector3f) -> tuple[mi.Color3f, mi.Float]:
        """f(wi, wo) |cos_o| and the density with which `sample` gives wo, per steradian."""
        up = wo.z > 0
        value, density = self._reflect(mi.Vector3f(wo.x, wo.y, dr.maximum(wo.z, 1e-6)))
        value, density = dr.select(up, value, 0.0), dr.select(up, density, 0.0)
        if self.table.has_glass:
            through = self.active & ~up & (self.glass > 0)
            passed, passed_density = dr.if_stmt(
                (mi.Vector3f(wo.x, wo.y, dr.minimum(wo.z, -1e-6)),),
                through,
                self._transmit,
                lambda wo: (dr.zeros(mi.Color3f), mi.Float(0.0)),
                label="transmit",
            )
            value, density = dr.select(through, passed, value), dr.select(through, passed_density, density)
        return dr.select(self.active, value, 0.0), dr.select(self.active, density, 0.0)

    def _reflect(self, wo: mi.Vector3f) -> tuple[mi.Color3f, mi.Float]:
        cos = wo.z
        lobe, density, half = microfacet.reflection(self.wi, wo, self.a)
        half = dr.clip(half, 0.0, 1.0)
        fresnel, _ = microfacet.dielectric(half, self.eta)
        facets = self.metalness * microfacet.metal(half, self.base, self.f82)
        facets += self.f82 * (self.opaque * self.specular_weight * fresnel)

        curves = self.table.curves(self.index, cos, self.active)
        mean = self.base + (mi.Color3f(1.0) - self.base) * (1.0 / 21.0)
        bounces = dr.square(mean) * self.mirror_average / (1 - mean * (1 - self.mirror_average))
        f = self.metalness * bounces * _coupled(self.mirror_i, curves[0], self.mirror_average, cos)
        under = self.specular_weight * self.reflected_average
        base = self.base
        if self.table.has_rough_diffuse:
            # The gloss above lets steep light through best, to which a rough base leans: taken off, not gained.
            lean = dr.rcp(1.0 + LEAN * self.diffuse_roughness * self.specular_weight)
            base = rough_diffuse(self.wi, wo, base, self.diffuse_roughness) * lean
        f += self.opaque * base * _coupled(self.spec_i, self.specular_weight * curves[1], under, cos)
        broad = self.p_diffuse
        if self.table.has_glass:
            facets += mi.Color3f(self.glass * dr.select(self.thin, 2 * fresnel / (1 + fresnel), fresnel))
            total_o = self._total(curves, self.inside)
            kept = self.glass * (1 - self.crossing)
            f += mi.Color3f(kept * _coupled(self.total_i, total_o, self.average_here, cos))
            broad = broad * (1 - self.glass * self.crossing)
        f += facets * lobe
        density = self.p_spec * density + broad * cos * dr.inv_pi
        if self.table.has_coat:
            coat, coat_density, coat_half = microfacet.reflection(self.wi, wo, self.coat_a)
            coat_f, _ = microfacet.dielectric(dr.clip(coat_half, 0.0, 1.0), self.coat_ior)
            f = f * self._cover(cos) + mi.Color3f(self.coat * coat_f * coat)
            density += self.p_coat * coat_density
        return f, density

    def _cover(self, cos_o: mi.Float) -> mi.Color3f:
        """What the coat lets through to the base and out again: reciprocal, never gains."""
        coat_o = self.table.coat_curve(self.index, cos_o, self.active)
        passed = 1 - self.coat * dr.maximum(self.coat_i, coat_o)
        return dr.lerp(mi.Color3f(1.0), self.coat_color, self.coat) * passed

    def _transmit(self, wo: mi.Vector3f) -> tuple[mi.Color3f, mi.Float]:
        cos = -wo.z
        lobe, density, half = microfacet.refraction(self.wi, wo, self.a, self.eta)
        flat, flat_density, flat_half = microfacet.reflection(self.wi, mi.Vector3f(wo.x, wo.y, cos), self.a)
        lobe, density = dr.select(self.thin, flat, lobe), dr.select(self.thin, flat_density, density)
        half = dr.clip(dr.select(self.thin, flat_half, half), 0.0, 1.0)
        fresnel, _ = microfacet.dielectric(half, self.eta)
        fresnel = dr.select(self.thin, 2 * fresnel / (1 + fresnel), fresnel)
        curves = self.table.curves(self.index, cos, self.active)
        broad = self.crossing * _coupled(self.total_i, self._total(curves, ~self.inside), self.average_there, cos)
        value = self.glass * self.tint * ((1 - fresnel) * lobe + broad)
        if self.table.has_coat:
            value *= self._cover(cos)
        spread = self.p_diffuse * self.glass * self.crossing * cos * dr.inv_pi
        return value, self.p_through * density + spread

    def sample(self, pick: mi.Float, v: mi.Point2f) -> tuple[mi.Vector3f, mi.Bool, mi.Bool]:
        """A direction wo drawn from the lobes, whether it passed the wall, and whether it is valid at all: a facet
        may mirror a ray downwards, or reflect totally where passing was asked for; such a sample counts as black."""
        to_spec = self.p_coat + self.p_spec
        to_diffuse = to_spec + self.p_diffuse
        through = pick >= to_diffuse
        a = dr.select(pick < self.p_coat, self.coat_a, self.a) if self.table.has_coat else self.a
        h = microfacet.sample_visible(self.wi, a, v)
        cos_h = dr.dot(self.wi, h)
        mirrored = 2.0 * cos_h * h - self.wi
        diffuse = mi.warp.square_to_cosine_hemisphere(v)
        diffuse.z = dr.maximum(diffuse.z, 1e-5)
        wo = dr.select(pick < to_spec, mirrored, diffuse)
        valid = (wo.z > 0) & ~through
        if self.table.has_glass:
            _, cos_t = microfacet.dielectric(dr.abs(cos_h), self.eta)
            refracted = h * (cos_h / self.eta - cos_t) - self.wi / self.eta
            refracted = dr.select(self.thin, mi.Vector3f(mirrored.x, mirrored.y, -mirrored.z), refracted)
            # The pick's place within the diffuse share is as good a random number as a fresh one.
            within = (pick - to_spec) / dr.maximum(self.p_diffuse, 1e-9)
            crossed = (pick >= to_spec) & ~through & (within < self.glass * self.crossing)
            wo = dr.select(crossed, mi.Vector3f(wo.x, wo.y, -wo.z), wo)
            wo = dr.select(through, refracted, wo)
            valid |= crossed | (through & (wo.z < 0) & (self.thin | (cos_t > 0)))
        return dr.normalize(wo), through, valid


def _coupled(e_i: mi.Float, e_o: mi.Float, e_average: mi.Float, cos_o: mi.Float) -> mi.Float:
    """(1 - E(i)) (1 - E(o)) / (π (1 - E_avg)) cos_o; its albedo is 1 - E(i)."""
    return (1 - e_i) * (1 - e_o) * cos_o / (dr.pi * dr.maximum(1 - e_average, 1e-6))
