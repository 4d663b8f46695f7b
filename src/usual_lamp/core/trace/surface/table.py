"""Appearances packed into one float table, so that all of them share one compiled kernel.

A row holds parameters and curves, see `rows`. Changing a colour or a roughness rewrites numbers in the table;
nothing is compiled and no geometry is rebuilt.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import OpenPBR
from usual_lamp.core.trace.engine import dr, mi, settled
from usual_lamp.core.trace.surface.albedo import KNOTS

BLOCKS: dict[str, tuple[str, ...]] = {
    "base": ("base", "metalness"),
    "specular": ("specular_color", "specular_weight"),
    "kind": ("roughness", "ior", "transmission", "thin"),
    "tint": ("tint", "coat"),
    "absorption": ("absorption", "coat_roughness"),
    "coat": ("coat_color", "coat_ior"),
    "emission": ("emission", "mirror_average"),
    "averages": ("reflected_average", "total_average_out", "total_average_in", "diffuse_roughness"),
    "grain": ("grain_cosine", "grain_sine", "anisotropy", "opacity"),
    "fresnel": ("film_ratio", "fresnel_of"),
    "fuzz": ("fuzz_color", "fuzz"),
    "lost": ("lost_color", "lost_average"),
    "fibres": ("fuzz_roughness", "fuzz_scale", "forward", "subsurface"),
    "body": ("body_color", "body_spare"),
    "walk": ("walk_albedo", "walk_anisotropy"),
    "density": ("walk_density", "density_spare"),
}
"""Parameters in fours: one packet load fetches a block."""
FRESNEL_KNOTS = 48
FACETS_AT = len(BLOCKS)
"""Four curves, interleaved knot by knot so that two loads interpolate all of them: albedo of perfect mirror facets;
dielectric reflected; dielectric total from outside; from inside."""
COVERS_AT = FACETS_AT + KNOTS
"""Albedo of the coat and of the fuzz; what the whole stack loses in white; one is spare."""
SWINGS_AT = COVERS_AT + KNOTS
"""How the albedo of brushed mirror facets swings with two and four times the azimuth; two are spare."""
FRESNEL_AT = SWINGS_AT + KNOTS
"""Reflectance of one facet, integrated over the wavelengths; one is spare."""
ROW_BLOCKS = FRESNEL_AT + FRESNEL_KNOTS
Four: TypeAlias = dr.llvm.ad.Array4f
FRESNEL_OF_METAL, FRESNEL_OF_DIELECTRIC = 1.0, 2.0


@dataclass(frozen=True)
class Kinds:
    """Kinds of surface that occur: what a kernel has to be able to do."""

    coat: bool = False
    glass: bool = False
    rough_diffuse: bool = False
    brushed: bool = False
    tabulated: bool = False
    """Under a thin film, or a metal by n and k."""
    fuzz: bool = False
    subsurface: bool = False
    cut_out: bool = False

    @staticmethod
    def of(p: OpenPBR) -> Kinds:
        """Return the kinds of surface that an appearance needs."""
        return Kinds(
            coat=p.coat_weight > 0,
            glass=p.transmission_weight > 0,
            rough_diffuse=p.base_diffuse_roughness > 0,
            brushed=p.specular_roughness_anisotropy > 0,
            tabulated=p.thin_film_weight > 0 or p.base_conductor is not None,
            fuzz=p.fuzz_weight > 0,
            subsurface=p.subsurface_weight > 0,
            cut_out=p.geometry_opacity < 1,
        )

    def __or__(self, other: Kinds) -> Kinds:
        return Kinds(**{f.name: getattr(self, f.name) or getattr(other, f.name) for f in fields(Kinds)})


class AppearanceTable:
    """The rows of all appearances of a scene, as a Dr.Jit array that kernels gather from."""

    def __init__(self, rows: NDArray[np.float32], kinds: Kinds) -> None:
        """`rows` is (appearances, 4 * ROW_BLOCKS)."""
        self.data = settled(rows)
        self.has = kinds

    def block(self, name: str, index: mi.UInt32, active: mi.Bool) -> tuple[mi.Color3f, mi.Float]:
        """A block of the appearances with these indices, as its first three numbers and its fourth."""
        four = self._four(index * ROW_BLOCKS + list(BLOCKS).index(name), active)
        return mi.Color3f(four[0], four[1], four[2]), four[3]

    def _four(self, place: mi.UInt32, active: mi.Bool) -> Four:
        return dr.gather(Four, self.data, place, active)

    def facets(self, index: mi.UInt32, cosine: mi.Float, active: mi.Bool) -> Four:
        """The four albedo curves of the specular facets at these cosines."""
        return self._curves(FACETS_AT, KNOTS, index, cosine, active)

    def covers(self, index: mi.UInt32, cosine: mi.Float, active: mi.Bool) -> Four:
        """Albedo of coat and fuzz, and the light that the stack loses."""
        return self._curves(COVERS_AT, KNOTS, index, cosine, active)

    def swings(self, index: mi.UInt32, cosine: mi.Float, active: mi.Bool) -> Four:
        """Return how the albedo swings with the azimuth, at two and four times the angle."""
        return self._curves(SWINGS_AT, KNOTS, index, cosine, active)

    def fresnel(self, index: mi.UInt32, cosine: mi.Float, active: mi.Bool) -> mi.Color3f:
        """Tabulated reflectance of a facet, where the appearance has one."""
        four = self._curves(FRESNEL_AT, FRESNEL_KNOTS, index, cosine, active)
        return mi.Color3f(four[0], four[1], four[2])

    def _curves(self, first: int, knots: int, index: mi.UInt32, cosine: mi.Float, active: mi.Bool) -> Four:
        """Linear between knots, which are equally spaced by the cosine's root."""
        place = dr.sqrt(dr.clip(cosine, 0.0, 1.0)) * (knots - 1)
        knot = dr.minimum(mi.UInt32(place), knots - 2)
        at = index * ROW_BLOCKS + first + knot
        low, high = self._four(at, active), self._four(at + 1, active)
        return low + (high - low) * (place - mi.Float(knot))
