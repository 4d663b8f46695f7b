"""The surface model: OpenPBR's base, metal, specular, transmission, subsurface, coat, fuzz and thin film.

Light that single scattering loses between rough facets is given back as a broad reciprocal lobe
f = (1 - E(i)) (1 - E(o)) / (π (1 - E_avg)), after C. Kulla and A. Conty, "Revisiting Physically Based Shading at
Imageworks", SIGGRAPH course 2017. The same form couples the diffuse base to the specular above it, so that a
white plastic returns all it receives, and an unlit-by-gloss colour measures as specified; and it gives back what coat
and fuzz hold (see `stack`).

Local frame: x along the brushing, wi towards the viewer with wi.z > 0 always (`inside` says which side of the wall
that is).
"""

from __future__ import annotations

from dataclasses import dataclass

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface import microfacet
from usual_lamp.core.trace.surface.covering import Covering
from usual_lamp.core.trace.surface.diffuse import rough_diffuse
from usual_lamp.core.trace.surface.fuzz import fuzz
from usual_lamp.core.trace.surface.scattered import Amount, Drawn, Scattered, coupled, luminance
from usual_lamp.core.trace.surface.table import FRESNEL_OF_DIELECTRIC, FRESNEL_OF_METAL, AppearanceTable, Four

LEAN = 0.006
"""What a fully rough diffuse base under gloss would gain at normal incidence (measured in the white furnace)."""
FILM_LEAN = 0.006
"""What a white base under a rough filmed gloss would gain, whose albedo is scaled from that of the bare one."""
CLEAR_ROUGHNESS = 0.12
"""Transmission smoother than this lets shadow rays and picture guides through."""


@dataclass
class Surface:
    """Parameters of one hit per lane, with what depends on the view direction worked out once."""

    table: AppearanceTable
    index: mi.UInt32
    active: mi.Bool
    wi: mi.Vector3f
    inside: mi.Bool
    """wi comes from inside a solid: possible only for transmissive, not thin-walled appearances."""
    covering: Covering | None = None
    """What pictures put on it."""
    over: mi.Vector3f | None = None
    """The clear coat's normal, where what lies beneath it is shaped on its own."""
    beyond: tuple[mi.Float, mi.Color3f] | None = None
    """Index and tint of what is outside of a clear wall, where that may be something else than air."""

    def __post_init__(self) -> None:
        has = self.table.has
        self.base, self.metalness = self._read("base")
        self.f82, self.specular_weight = self._read("specular")
        kind, thin = self._read("kind")
        self.roughness, self.ior, self.transmission = kind.x, kind.y, kind.z
        if self.covering is not None:
            self.base, self.roughness = self.covering.base, self.covering.roughness
            self.metalness, self.transmission = self.covering.body(self.metalness, self.transmission)
            self.specular_weight = self.covering.gloss(self.specular_weight, self.inside)
        self.thin = thin > 0.5
        self.tint, coat = self._read("tint")
        self.emission, self.mirror_average = self._read("emission")
        averages, self.diffuse_roughness = self._read("averages")
        # Inside a solid there is no coat and no metal: the wall is a plain dielectric interface.
        self.coat_over = coat if has.coat else mi.Float(0.0)
        self.coat = dr.select(self.inside, 0.0, self.coat_over)
        self.opaque = (1 - self.metalness) * (1 - self.transmission)
        self.glass = (1 - self.metalness) * self.transmission
        relative = self.ior
        if self.beyond is not None:
            relative = self.ior / self.beyond[0]
            self.tint = self.tint * self.beyond[1]
        self.eta = dr.select(self.inside, dr.rcp(relative), relative)
        self.clear = (self.glass > 0.5) & (self.roughness < CLEAR_ROUGHNESS)
        self.mirrors = (self.metalness + self.glass > 0.5) & (self.roughness < CLEAR_ROUGHNESS)
        # A thin wall sends what it does not mirror straight on, so both sides lose alike.
        out = dr.select(self.thin, self.mirror_average, averages.y)
        within = dr.select(self.thin, self.mirror_average, averages.z)
        self.average_here = dr.select(self.inside, within, out)
        self.average_there = dr.select(self.inside, out, within)
        self.under = self.specular_weight * averages.x
        self._finer_lobes()
        self._shares()

    def _read(self, name: str) -> tuple[mi.Color3f, mi.Float]:
        return self.table.block(name, self.index, self.active)

    def _finer_lobes(self) -> None:
        """What only some appearances have: brushing, tabulated Fresnel, fuzz, light beneath the surface."""
        has = self.table.has
        self.fuzz, self.fuzz_over, self.fresnel_of = mi.Float(0.0), mi.Float(0.0), mi.Float(0.0)
        self.body_share = self.forward = mi.Float(0.0)
        anisotropy: mi.Float | float = 0.0
        if has.brushed:
            anisotropy = self._read("grain")[0].z
        if has.tabulated:
            film_ratio, self.fresnel_of = self._read("fresnel")
            film = self.fresnel_of == FRESNEL_OF_DIELECTRIC
            self.under = dr.select(film, film_ratio, 1.0) * self.under
        if has.fuzz:
            self.fuzz_color, self.fuzz_over = self._read("fuzz")
            self.fuzz = dr.select(self.inside, 0.0, self.fuzz_over)
        if has.fuzz or has.subsurface:
            fibres, subsurface = self._read("fibres")
            self.fuzz_roughness, self.fuzz_scale, self.forward = fibres.x, fibres.y, fibres.z
            if has.subsurface:
                self.body_share = subsurface * self.opaque
                self.body_color, _ = self._read("body")
        self.a = microfacet.alpha(self.roughness, anisotropy)
        self.layered = has.coat or has.fuzz
        if self.layered:
            self.lost_color, self.lost_average = self._read("lost")
        if has.coat:
            (_, coat_roughness), (self.coat_color, self.coat_ior) = self._read("absorption"), self._read("coat")
            self.coat_a = microfacet.alpha(coat_roughness)

    def fresnel(self, cosine: mi.Float) -> Amount:
        """Of the wall as a dielectric, both ways through it where it is thin."""
        f, beyond = microfacet.dielectric(cosine, self.eta)
        if self.table.has.tabulated:
            film = self.active & (self.fresnel_of == FRESNEL_OF_DIELECTRIC)
            # Light passes a film alike in both directions: from inside, the angle outside decides.
            outer = dr.select(self.inside, beyond, cosine)
            color = self.table.fresnel(self.index, outer, film)
            f = dr.select(film & ~(self.inside & (beyond <= 0)), color, mi.Color3f(f))
        return dr.select(self.thin, 2 * f / (1 + f), f)

    def metal(self, cosine: mi.Float) -> mi.Color3f:
        """Return the reflectance of the metal at a cosine, tabulated where n and k are known."""
        f = microfacet.metal(cosine, self.base, self.f82)
        if self.table.has.tabulated:
            tabulated = self.active & (self.fresnel_of == FRESNEL_OF_METAL)
            f = dr.select(tabulated, self.table.fresnel(self.index, cosine, tabulated), f)
        return f

    def _mirror(self, facets: Four, w: mi.Vector3f) -> mi.Float:
        """Albedo of perfect mirror facets: along the brushing they hide each other less than across it."""
        if not self.table.has.brushed:
            return facets[0]
        swing = self.table.swings(self.index, w.z, self.active)
        x2, y2 = dr.square(w.x), dr.square(w.y)
        twice = (x2 - y2) / dr.maximum(x2 + y2, 1e-9)
        return dr.clip(facets[0] + swing[0] * twice + swing[1] * (2 * dr.square(twice) - 1), 0.0, 1.0)

    def _gloss(self, facets: Four, cosine: mi.Float) -> Amount:
        """Albedo of the specular lobe above an opaque base."""
        plain = self.specular_weight * facets[1]
        if not self.table.has.tabulated:
            return plain
        film = self.active & (self.fresnel_of == FRESNEL_OF_DIELECTRIC)
        bare, _ = microfacet.dielectric(cosine, self.ior)
        colored = plain * self.table.fresnel(self.index, cosine, film) / dr.maximum(bare, 1e-4)
        return dr.select(film, colored, mi.Color3f(plain))

    def _shares(self) -> None:
        """Energy terms at wi, and the probability of each lobe."""
        cos = self.wi.z
        facets = self.table.facets(self.index, cos, self.active)
        self.mirror_i, self.gloss_i = self._mirror(facets, self.wi), self._gloss(facets, cos)
        self.total_i = self._total(facets, self.inside)
        self.crossing = self._crossing()
        base, gloss = luminance(self.base), luminance(self.gloss_i)
        fresnel = dr.clip(luminance(self.fresnel(cos)), 0.0, 1.0)
        spec = self.metalness * base + self.opaque * gloss + self.glass * fresnel
        held = self.glass * (1 - self.total_i)
        body = self.body_share * (1 - gloss)
        shares = {
            "diffuse": self.metalness * (1 - self.mirror_i) * dr.square(base)
            + (self.opaque - self.body_share) * base * (1 - gloss)
            + dr.select(self.thin, body * (1 - self.forward), 0.0)
            + held * (1 - self.crossing),
            "cross": held * self.crossing + dr.select(self.thin, body * self.forward, 0.0),
            "enter": dr.select(self.thin, 0.0, body),
            "through": self.glass * (1 - fresnel) * luminance(self.tint),
        }
        self.p_coat = self.p_fuzz = mi.Float(0.0)
        if self.layered:
            self._cover_shares(spec, shares)
        total = dr.maximum(spec + sum(shares.values()), 1e-6)
        rest = 1 - self.p_coat - self.p_fuzz
        self.p_spec = rest * spec / total
        self.p_diffuse, self.p_cross, self.p_enter, self.p_through = (rest * share / total for share in shares.values())

    def _cover_shares(self, spec: mi.Float, shares: dict[str, mi.Float]) -> None:
        """Coat and fuzz take their albedo first; what the stack loses goes out by the diffuse lobe."""
        self.wi_over = self._over(self.wi)
        covers = self.table.covers(self.index, self.wi_over.z, self.active)
        self.coat_i, self.fuzz_i = self.coat * covers[0], self.fuzz * covers[1]
        self.lost_i = dr.select(self.inside, 0.0, covers[2])
        shares["diffuse"] = shares["diffuse"] + self.lost_i * luminance(self.lost_color)
        below = (1 - self.fuzz_i) * (1 - self.coat_i) * (spec + sum(shares.values()))
        coat = (1 - self.fuzz_i) * self.coat_i
        fibres = self.fuzz_i * luminance(self.fuzz_color) if self.table.has.fuzz else mi.Float(0.0)
        total = dr.maximum(below + coat + fibres, 1e-6)
        self.p_coat, self.p_fuzz = coat / total, fibres / total

    def _over(self, w: mi.Vector3f) -> mi.Vector3f:
        """A direction on the outer side, seen from the clear coat."""
        if self.over is None or not self.table.has.coat:
            return w
        seen = mi.Frame3f(self.over).to_local(w)
        return dr.normalize(mi.Vector3f(seen.x, seen.y, dr.maximum(seen.z, 1e-4)))

    def _total(self, facets: Four, inside: mi.Bool) -> mi.Float:
        """Albedo of the glass share from single scattering, both ways together."""
        return dr.select(self.thin, facets[0], dr.select(inside, facets[3], facets[2]))

    def _crossing(self) -> mi.Float:
        """Share of the glass's multiply scattered light that leaves on the far side, by reciprocity.

        With x = (1 - crossing) per side, (1 - x_out) / (1 - A_in) must equal (1 - x_in) eta² / (1 - A_out); the
        choice below splits it in proportion to what each side loses, weighted by the solid angle factor.
        """
        n2 = dr.select(self.thin, 1.0, dr.square(self.eta))
        there = (1 - self.average_there) * n2
        return there / dr.maximum(there + (1 - self.average_here), 1e-6)

    # -- evaluation -----------------------------------------------------------------------------------------

    def evaluate(
        self, wo: mi.Vector3f, straight: mi.Bool | bool = True, spread: mi.Bool | bool = True
    ) -> tuple[Scattered, mi.Float]:
        """f(wi, wo) |cos_o| and the density with which `sample` gives wo, per steradian. Walks are not in it.

        Of light on the other side of a wall, `straight` is what its facets let pass, and `spread` what it scatters on
        the way; where one is false, value and density are without it.
        """
        up = self.active & (wo.z > 0)
        diffuse, specular, density = self._reflect(mi.Vector3f(wo.x, wo.y, dr.maximum(wo.z, 1e-6)))
        passed, passed_density = dr.zeros(mi.Color3f), mi.Float(0.0)
        if self.table.has.glass or self.table.has.subsurface:
            down = self.active & (wo.z <= 0) & (self.glass + self.body_share > 0)
            passed, passed_density = dr.if_stmt(
                (mi.Vector3f(wo.x, wo.y, dr.minimum(wo.z, -1e-6)),),
                down,
                lambda wo: self._transmit(wo, straight, spread),
                lambda wo: (dr.zeros(mi.Color3f), mi.Float(0.0)),
                label="transmit",
            )
            passed, passed_density = dr.select(down, passed, 0.0), dr.select(down, passed_density, 0.0)
        found = Scattered(dr.select(up, diffuse, 0.0), dr.select(up, specular, 0.0), passed)
        return found, dr.select(up, density, passed_density)

    def _reflect(self, wo: mi.Vector3f) -> tuple[mi.Color3f, mi.Color3f, mi.Float]:
        """Diffuse, specular, density."""
        cos = wo.z
        lobe, density, half = microfacet.reflection(self.wi, wo, self.a)
        half = dr.clip(half, 0.0, 1.0)
        wall = self.fresnel(half)
        interface = dr.select(self.thin, wall / (2 - wall), wall)
        mirrored = self.metalness * self.metal(half) + self.f82 * (self.opaque * self.specular_weight * interface)

        facets = self.table.facets(self.index, cos, self.active)
        mean = self.base + (mi.Color3f(1.0) - self.base) * (1.0 / 21.0)
        bounces = dr.square(mean) * self.mirror_average / (1 - mean * (1 - self.mirror_average))
        specular = self.metalness * bounces * coupled(self.mirror_i, self._mirror(facets, wo), self.mirror_average, cos)
        diffuse = self._base(wo) * coupled(self.gloss_i, self._gloss(facets, cos), self.under, cos)
        if self.table.has.glass:
            mirrored += mi.Color3f(self.glass * wall)
            total_o = self._total(facets, self.inside)
            kept = self.glass * (1 - self.crossing)
            specular += mi.Color3f(kept * coupled(self.total_i, total_o, self.average_here, cos))
        specular += mirrored * lobe
        density = self.p_spec * density + self.p_diffuse * cos * dr.inv_pi
        if self.layered:
            return self._under_covers(wo, diffuse, specular, density)
        return diffuse, specular, density

    def _base(self, wo: mi.Vector3f) -> mi.Color3f:
        """Colour of the diffuse reflection, with its share."""
        base = self.base
        if self.table.has.rough_diffuse:
            # The gloss above lets steep light through best, to which a rough base leans: taken off, not gained.
            lean = dr.rcp(1.0 + LEAN * self.diffuse_roughness * self.specular_weight)
            base = rough_diffuse(self.wi, wo, base, self.diffuse_roughness) * lean
        if self.table.has.tabulated:
            base = dr.select(self.fresnel_of == FRESNEL_OF_DIELECTRIC, base * (1 - FILM_LEAN), base)
        base = base * (self.opaque - self.body_share)
        if self.table.has.subsurface:
            base += dr.select(self.thin, self.body_color * (self.body_share * (1 - self.forward)), 0.0)
        return base

    def _under_covers(
        self, wo: mi.Vector3f, diffuse: mi.Color3f, specular: mi.Color3f, density: mi.Float
    ) -> tuple[mi.Color3f, mi.Color3f, mi.Float]:
        wo_over = self._over(wo)
        cos = wo_over.z
        covers = self.table.covers(self.index, cos, self.active)
        dimmed = self._cover(covers)
        diffuse, specular = diffuse * dimmed, specular * dimmed
        below_fuzz = 1 - dr.maximum(self.fuzz_i, self.fuzz * covers[1])
        if self.table.has.coat:
            lobe, lobe_density, half = microfacet.reflection(self.wi_over, wo_over, self.coat_a)
            f, _ = microfacet.dielectric(dr.clip(half, 0.0, 1.0), self.coat_ior)
            specular += mi.Color3f(self.coat * f * lobe * below_fuzz)
            density += self.p_coat * lobe_density
        if self.table.has.fuzz:
            rim = fuzz(self.wi_over, wo_over, self.fuzz_roughness) * self.fuzz_scale
            diffuse += self.fuzz_color * (self.fuzz * rim)
            density += self.p_fuzz * dr.inv_two_pi
        lost_o = dr.select(self.inside, 0.0, covers[2])
        diffuse += self.lost_color * (self.lost_i * lost_o * wo.z / (dr.pi * dr.maximum(self.lost_average, 1e-6)))
        return diffuse, specular, density

    def _cover(self, covers: Four) -> mi.Color3f:
        """What coat and fuzz let through to the base and out again: reciprocal, never gains."""
        passed = 1 - dr.maximum(self.coat_i, self.coat * covers[0])
        passed *= 1 - dr.maximum(self.fuzz_i, self.fuzz * covers[1])
        if not self.table.has.coat:
            return mi.Color3f(passed)
        return dr.lerp(mi.Color3f(1.0), self.coat_color, self.coat) * passed

    def _transmit(
        self, wo: mi.Vector3f, straight: mi.Bool | bool, spread: mi.Bool | bool
    ) -> tuple[mi.Color3f, mi.Float]:
        cos = -wo.z
        facets = self.table.facets(self.index, cos, self.active)
        density = dr.select(spread, self.p_cross * cos * dr.inv_pi, 0.0)
        value = dr.zeros(mi.Color3f)
        if self.table.has.glass:
            lobe, lobe_density, half = microfacet.refraction(self.wi, wo, self.a, self.eta)
            flat, flat_density, flat_half = microfacet.reflection(self.wi, mi.Vector3f(wo.x, wo.y, cos), self.a)
            lobe, lobe_density = dr.select(self.thin, flat, lobe), dr.select(self.thin, flat_density, lobe_density)
            wall = self.fresnel(dr.clip(dr.select(self.thin, flat_half, half), 0.0, 1.0))
            total_o = self._total(facets, ~self.inside)
            broad = self.crossing * coupled(self.total_i, total_o, self.average_there, cos)
            passed = dr.select(straight, (1 - wall) * lobe, 0.0) + dr.select(spread, broad, 0.0)
            value += self.glass * self.tint * passed
            density += dr.select(straight, self.p_through * lobe_density, 0.0)
        if self.table.has.subsurface:
            shine = self.body_color * (self.body_share * self.forward)
            shine *= coupled(self.gloss_i, self._gloss(facets, cos), self.under, cos)
            value += dr.select(spread & self.thin, shine, 0.0)
        if self.layered:
            outer = dr.select(self.inside, cos, self.wi.z)
            value *= self._half_cover(self.table.covers(self.index, outer, self.active))
        return value, density

    def leaving(self, cos: mi.Float, active: mi.Bool) -> mi.Color3f:
        """Weight of light that comes from within the body and leaves by this cosine, over that of a Lambertian; 0 in
        lanes that are not active."""

        def weight(cos: mi.Float) -> mi.Color3f:
            """What the gloss, and what lies over it, let out."""
            facets = self.table.facets(self.index, cos, self.active)
            out = mi.Color3f((1 - self._gloss(facets, cos)) / dr.maximum(1 - self.under, 1e-6))
            if self.layered:
                out *= self._half_cover(self.table.covers(self.index, cos, self.active))
            return out

        return dr.if_stmt((cos,), active, weight, lambda cos: dr.zeros(mi.Color3f), label="leaving")  # type: ignore[no-any-return]

    def _half_cover(self, covers: Four) -> mi.Color3f:
        """One way through coat and fuzz, by the cosine outside."""
        passed = mi.Color3f((1 - self.coat_over * covers[0]) * (1 - self.fuzz_over * covers[1]))
        if self.table.has.coat:
            passed *= dr.sqrt(dr.lerp(mi.Color3f(1.0), self.coat_color, self.coat_over))
        return passed

    # -- sampling -------------------------------------------------------------------------------------------

    def sample(self, pick: mi.Float, v: mi.Point2f) -> Drawn:
        """A direction wo drawn from the lobes."""
        to_spec = self.p_coat + self.p_spec
        to_fuzz = to_spec + self.p_fuzz
        to_diffuse = to_fuzz + self.p_diffuse
        to_cross = to_diffuse + self.p_cross
        to_enter = to_cross + self.p_enter
        h = self._facet(pick, v)
        cos_h = dr.dot(self.wi, h)
        mirrored = 2.0 * cos_h * h - self.wi
        diffuse = mi.warp.square_to_cosine_hemisphere(v)
        if self.table.has.fuzz:
            # Fibres send most light out flat, where the cosine would hardly look.
            even = mi.warp.square_to_uniform_hemisphere(v)
            diffuse = dr.select((pick >= to_spec) & (pick < to_fuzz), even, diffuse)
        diffuse.z = dr.maximum(diffuse.z, 1e-5)
        wo = dr.select(pick < to_spec, mirrored, diffuse)
        through = enters = mi.Bool(False)
        valid = wo.z > 0
        if self.table.has.glass or self.table.has.subsurface:
            # Rounding must not send the last pick to a lobe that is not there.
            through = (pick >= to_enter) & (self.p_through > 0)
            enters = (pick >= to_cross) & ~through & (self.p_enter > 0)
            crossed = (pick >= to_diffuse) & ~through & ~enters & (self.p_cross > 0)
            wo = dr.select(crossed | enters, mi.Vector3f(diffuse.x, diffuse.y, -diffuse.z), wo)
            valid |= crossed | enters
        if self.table.has.glass:
            _, cos_t = microfacet.dielectric(dr.abs(cos_h), self.eta)
            refracted = h * (cos_h / self.eta - cos_t) - self.wi / self.eta
            refracted = dr.select(self.thin, mi.Vector3f(mirrored.x, mirrored.y, -mirrored.z), refracted)
            wo = dr.select(through, refracted, wo)
            valid = dr.select(through, (wo.z < 0) & (self.thin | (cos_t > 0)), valid)
        entry = dr.zeros(mi.Color3f)
        if self.table.has.subsurface:
            entry = mi.Color3f(self.body_share * (1 - self.gloss_i) / dr.maximum(self.p_enter, 1e-9))
            if self.layered:
                entry *= self._half_cover(self.table.covers(self.index, self.wi.z, self.active))
        return Drawn(dr.normalize(wo), through, valid, pick >= to_spec, enters, entry)

    def _facet(self, pick: mi.Float, v: mi.Point2f) -> mi.Vector3f:
        """A facet of the coat or of the wall beneath, as wi sees them."""
        if not self.table.has.coat:
            return microfacet.sample_visible(self.wi, self.a, v)
        on_coat = pick < self.p_coat
        a = dr.select(on_coat, self.coat_a, self.a)
        if self.over is None:
            return microfacet.sample_visible(self.wi, a, v)
        h = microfacet.sample_visible(dr.select(on_coat, self.wi_over, self.wi), a, v)
        return dr.select(on_coat, mi.Frame3f(self.over).to_world(h), h)
