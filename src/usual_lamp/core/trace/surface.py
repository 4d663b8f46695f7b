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
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.table import AppearanceTable

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
        read = lambda name: self.table.read(name, self.index, self.active)  # noqa: E731
        self.base, self.metalness = read("base"), read("metalness")
        self.f82, self.specular_weight = read("specular_color"), read("specular_weight")
        self.roughness = read("roughness")
        self.a = microfacet.alpha(self.roughness)
        self.ior, self.transmission, self.tint = read("ior"), read("transmission"), read("tint")
        self.thin = read("thin") > 0.5
        self.coat, self.coat_color = read("coat"), read("coat_color")
        self.coat_a, self.coat_ior = microfacet.alpha(read("coat_roughness")), read("coat_ior")
        self.mirror_average = read("mirror_average")
        self.reflected_average = read("reflected_average")
        # A thin wall sends what it does not mirror straight on, so both sides lose alike.
        self.average_out = dr.select(self.thin, self.mirror_average, read("total_average_out"))
        self.average_in = dr.select(self.thin, self.mirror_average, read("total_average_in"))
        # Inside a solid there is no coat and no metal: the wall is a plain dielectric interface.
        self.eta = dr.select(self.inside, dr.rcp(self.ior), self.ior)
        self.coat = dr.select(self.inside, 0.0, self.coat)
        self.clear = (self.transmission * (1 - self.metalness) > 0.5) & (self.roughness < CLEAR_ROUGHNESS)
        self._shares()

    def _shares(self) -> None:
        """Energy terms at wi, and the probability of each lobe."""
        cos = self.wi.z
        self.mirror_i = self._curve("mirror_curve", cos)
        self.spec_i = self.specular_weight * self._curve("reflected_curve", cos)
        self.total_i = self._total(cos, self.inside)
        self.coat_i = self._curve("coat_curve", cos)
        opaque, glass = (
            (1 - self.metalness) * (1 - self.transmission),
            (1 - self.metalness) * self.transmission,
        )
        under = 1 - self.coat * self.coat_i
        f0 = luminance(self.base)
        lost = (1 - self.mirror_i) * dr.square(f0)
        fresnel, _ = microfacet.dielectric(cos, self.eta)
        fresnel = dr.select(self.thin, 2 * fresnel / (1 + fresnel), fresnel)
        glass_spec = dr.clip(fresnel, 0.0, 1.0)
        spec = self.metalness * f0 + opaque * self.spec_i + glass * glass_spec
        diffuse = self.metalness * lost + opaque * f0 * (1 - self.spec_i) + glass * (1 - self.total_i)
        through = glass * (1 - glass_spec) * luminance(self.tint)
        total = dr.maximum(spec + diffuse + through, 1e-6)
        self.p_coat = self.coat * self.coat_i / dr.maximum(self.coat * self.coat_i + under * total, 1e-6)
        self.p_spec, self.p_diffuse, self.p_through = (
            (1 - self.p_coat) * share / total for share in (spec, diffuse, through)
        )
        self.opaque, self.glass = opaque, glass

    def _curve(self, name: str, cosine: mi.Float) -> mi.Float:
        return self.table.curve(name, self.index, cosine, self.active)

    def _total(self, cosine: mi.Float, inside: mi.Bool) -> mi.Float:
        outer = self._curve("total_curve_out", cosine)
        inner = self._curve("total_curve_in", cosine)
        return dr.select(self.thin, self._curve("mirror_curve", cosine), dr.select(inside, inner, outer))

    def _fresnel(self, cosine: mi.Float) -> tuple[mi.Color3f, mi.Float]:
        """Reflectance of the facets: all but the glass share, and of the glass share."""
        f, _ = microfacet.dielectric(dr.clip(cosine, 0.0, 1.0), self.eta)
        glass = dr.select(self.thin, 2 * f / (1 + f), f)
        metal = microfacet.metal(dr.clip(cosine, 0.0, 1.0), self.base, self.f82)
        return self.metalness * metal + self.f82 * (self.opaque * self.specular_weight * f), glass

    def evaluate(self, wo: mi.Vector3f) -> tuple[mi.Color3f, mi.Float]:
        """f(wi, wo) |cos_o| and the density with which `sample` gives wo, per steradian."""
        up = wo.z > 0
        reflected, density_up = self._reflect(mi.Vector3f(wo.x, wo.y, dr.maximum(wo.z, 1e-6)))
        through, density_down = self._transmit(mi.Vector3f(wo.x, wo.y, dr.minimum(wo.z, -1e-6)))
        value = dr.select(up, reflected, through)
        return dr.select(self.active, value, 0.0), dr.select(
            self.active, dr.select(up, density_up, density_down), 0.0
        )

    def _cover(self, cos_o: mi.Float) -> mi.Color3f:
        """What the coat lets through to the base and out again: reciprocal, never gains."""
        coat_o = self._curve("coat_curve", cos_o)
        return dr.lerp(mi.Color3f(1.0), self.coat_color, self.coat) * (
            1 - self.coat * dr.maximum(self.coat_i, coat_o)
        )

    def _reflect(self, wo: mi.Vector3f) -> tuple[mi.Color3f, mi.Float]:
        cos = wo.z
        lobe, density, half = microfacet.reflection(self.wi, wo, self.a)
        rest, glass = self._fresnel(half)
        f = (rest + self.glass * glass) * lobe

        mirror_o, spec_o = (
            self._curve("mirror_curve", cos),
            self.specular_weight * self._curve("reflected_curve", cos),
        )
        mean = self.base + (mi.Color3f(1.0) - self.base) * (1.0 / 21.0)
        bounces = dr.square(mean) * self.mirror_average / (1 - mean * (1 - self.mirror_average))
        f += self.metalness * bounces * _coupled(self.mirror_i, mirror_o, self.mirror_average, cos)
        under = self.specular_weight * self.reflected_average
        f += self.opaque * self.base * _coupled(self.spec_i, spec_o, under, cos)
        here = dr.select(self.inside, self.average_in, self.average_out)
        kept = self.glass * (1 - self._crossing())
        f += kept * _coupled(self.total_i, self._total(cos, self.inside), here, cos)

        coat, coat_density, coat_half = microfacet.reflection(self.wi, wo, self.coat_a)
        coat_f, _ = microfacet.dielectric(dr.clip(coat_half, 0.0, 1.0), self.coat_ior)
        f = f * self._cover(cos) + self.coat * coat_f * coat
        stays = 1 - self.glass * self._crossing()
        broad = self.p_diffuse * stays * cos * dr.inv_pi
        return f, self.p_spec * density + self.p_coat * coat_density + broad

    def _crossing(self) -> mi.Float:
        """Share of the glass's multiply scattered light that leaves on the far side, by reciprocity.

        With x = (1 - crossing) per side, (1 - x_out) / (1 - A_in) must equal (1 - x_in) eta² / (1 - A_out); the
        choice below splits it in proportion to what each side loses, weighted by the solid angle factor.
        """
        here = dr.select(self.inside, self.average_in, self.average_out)
        there = dr.select(self.inside, self.average_out, self.average_in)
        n2 = dr.select(self.thin, 1.0, dr.square(self.eta))
        return (1 - there) * n2 / dr.maximum((1 - there) * n2 + (1 - here), 1e-6)

    def _transmit(self, wo: mi.Vector3f) -> tuple[mi.Color3f, mi.Float]:
        cos = -wo.z
        lobe, density, half = microfacet.refraction(self.wi, wo, self.a, self.eta)
        flat, flat_density, flat_half = microfacet.reflection(self.wi, mi.Vector3f(wo.x, wo.y, cos), self.a)
        lobe, density = dr.select(self.thin, flat, lobe), dr.select(self.thin, flat_density, density)
        _, f = self._fresnel(dr.select(self.thin, flat_half, half))
        there = dr.select(self.inside, self.average_out, self.average_in)
        broad = self._crossing() * _coupled(self.total_i, self._total(cos, ~self.inside), there, cos)
        value = self.glass * self.tint * ((1 - f) * lobe + broad) * self._cover(cos)
        spread = self.p_diffuse * self.glass * self._crossing() * cos * dr.inv_pi
        return value, self.p_through * density + spread

    def sample(self, u: mi.Point2f, v: mi.Point2f) -> tuple[mi.Vector3f, mi.Bool, mi.Bool]:
        """A direction wo drawn from the lobes, whether it passed the wall, and whether it is valid at all: a facet
        may mirror a ray downwards, or reflect totally where passing was asked for; such a sample counts as black."""
        pick = u.x
        a = dr.select(pick < self.p_coat, self.coat_a, self.a)
        h = microfacet.sample_visible(self.wi, a, v)
        cos_h = dr.dot(self.wi, h)
        mirrored = 2.0 * cos_h * h - self.wi
        _, cos_t = microfacet.dielectric(dr.abs(cos_h), self.eta)
        refracted = h * (cos_h / self.eta - cos_t) - self.wi / self.eta
        refracted = dr.select(self.thin, mi.Vector3f(mirrored.x, mirrored.y, -mirrored.z), refracted)
        diffuse = mi.warp.square_to_cosine_hemisphere(v)
        diffuse.z = dr.maximum(diffuse.z, 1e-5)
        crossed = u.y < self.glass * self._crossing()
        diffuse = dr.select(crossed, mi.Vector3f(diffuse.x, diffuse.y, -diffuse.z), diffuse)
        to_spec = self.p_coat + self.p_spec
        to_diffuse = to_spec + self.p_diffuse
        through = pick >= to_diffuse
        wo = dr.select(pick < to_spec, mirrored, dr.select(through, refracted, diffuse))
        spec_valid = dr.select(through, (wo.z < 0) & (self.thin | (cos_t > 0)), wo.z > 0)
        valid = ((pick >= to_spec) & ~through) | spec_valid
        return dr.normalize(wo), through, valid


def _coupled(e_i: mi.Float, e_o: mi.Float, e_average: mi.Float, cos_o: mi.Float) -> mi.Float:
    """(1 - E(i)) (1 - E(o)) / (π (1 - E_avg)) cos_o; its albedo is 1 - E(i)."""
    return (1 - e_i) * (1 - e_o) * cos_o / (dr.pi * dr.maximum(1 - e_average, 1e-6))
