"""Appearances packed into one float table, so that all of them share one compiled kernel.

A row holds the parameters and the albedo curves. Changing a colour or a roughness rewrites numbers in the
table; nothing is compiled and no geometry is rebuilt.
"""

from __future__ import annotations

from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.trace import albedo
from usual_lamp.core.trace.engine import dr, mi

BLOCKS: dict[str, tuple[str, ...]] = {
    "base": ("base", "metalness"),
    "specular": ("specular_color", "specular_weight"),
    "kind": ("roughness", "ior", "transmission", "thin"),
    "tint": ("tint", "coat"),
    "absorption": ("absorption", "coat_roughness"),
    "coat": ("coat_color", "coat_ior"),
    "emission": ("emission", "mirror_average"),
    "averages": ("reflected_average", "total_average_out", "total_average_in", "diffuse_roughness"),
}
"""Parameters in fours: one packet load fetches a block."""
CURVES_AT = len(BLOCKS)
"""Here the four albedo curves begin, interleaved knot by knot, so that two loads interpolate all four."""
COAT_AT = CURVES_AT + albedo.KNOTS
ROW_BLOCKS = COAT_AT + -(-albedo.KNOTS // 4)
Four: TypeAlias = dr.llvm.ad.Array4f


def row(appearance: Appearance) -> NDArray[np.float32]:
    """The table row of one appearance, (4 * ROW_BLOCKS,)."""
    p = appearance.params
    thick = p.transmission_depth > 0 and not p.geometry_thin_walled
    color = np.maximum(p.transmission_color, 1e-4)
    ior = max(p.specular_ior, 1.0001)
    mirror, reflected, total_out = albedo.curves(p.specular_roughness, ior)
    _, _, total_in = albedo.curves(p.specular_roughness, 1.0 / ior)
    _, coat, _ = albedo.curves(p.coat_roughness, max(p.coat_ior, 1.0001))
    values: dict[str, Any] = {
        "base": np.multiply(p.base_color, p.base_weight),
        "metalness": p.base_metalness,
        "specular_color": p.specular_color,
        "specular_weight": p.specular_weight,
        "roughness": p.specular_roughness,
        "ior": ior,
        "transmission": p.transmission_weight,
        "thin": float(p.geometry_thin_walled),
        # Without a depth the colour is that of the whole passage: half of it (by power) at each of two surfaces.
        "tint": (1.0, 1.0, 1.0) if thick else (color if p.geometry_thin_walled else np.sqrt(color)),
        "absorption": -np.log(color) / p.transmission_depth if thick else (0.0, 0.0, 0.0),
        "coat": p.coat_weight,
        "coat_color": p.coat_color,
        "coat_roughness": p.coat_roughness,
        "coat_ior": max(p.coat_ior, 1.0001),
        "emission": np.multiply(p.emission_color, p.emission_luminance),
        "mirror_average": albedo.average(mirror),
        "reflected_average": albedo.average(reflected),
        "total_average_out": albedo.average(total_out),
        "total_average_in": albedo.average(total_in),
        "diffuse_roughness": p.base_diffuse_roughness,
    }
    parameters = [np.atleast_1d(values[name]) for names in BLOCKS.values() for name in names]
    knots = np.stack([mirror, reflected, total_out, total_in], axis=1).ravel()
    coats = np.pad(coat, (0, -len(coat) % 4))
    return np.concatenate([*parameters, knots, coats]).astype(np.float32)


class AppearanceTable:
    """The rows of all appearances of a scene, as a Dr.Jit array that kernels gather from."""

    has_coat: bool
    has_glass: bool
    has_rough_diffuse: bool

    def __init__(self, appearances: list[Appearance], earlier: AppearanceTable | None = None) -> None:
        """Kinds of surface that the `earlier` table had stay compiled in."""
        self.data = mi.Float(np.concatenate([row(a) for a in appearances]))
        dr.make_opaque(self.data)
        params = [a.params for a in appearances]
        self.has_coat = any(p.coat_weight > 0 for p in params)
        self.has_glass = any(p.transmission_weight > 0 for p in params)
        self.has_rough_diffuse = any(p.base_diffuse_roughness > 0 for p in params)
        if earlier is not None:
            self.has_coat |= earlier.has_coat
            self.has_glass |= earlier.has_glass
            self.has_rough_diffuse |= earlier.has_rough_diffuse

    def block(self, name: str, index: mi.UInt32, active: mi.Bool) -> tuple[mi.Color3f, mi.Float]:
        """A block of the appearances with these indices, as its first three numbers and its fourth."""
        four = self._four(index * ROW_BLOCKS + list(BLOCKS).index(name), active)
        return mi.Color3f(four[0], four[1], four[2]), four[3]

    def _four(self, place: mi.UInt32, active: mi.Bool) -> Four:
        return dr.gather(Four, self.data, place, active)

    def curves(self, index: mi.UInt32, cosine: mi.Float, active: mi.Bool) -> Four:
        """The four albedo curves at these cosines, linear between knots."""
        knot, share = _place(cosine)
        place = index * ROW_BLOCKS + CURVES_AT + knot
        low, high = self._four(place, active), self._four(place + 1, active)
        return low + (high - low) * share

    def coat_curve(self, index: mi.UInt32, cosine: mi.Float, active: mi.Bool) -> mi.Float:
        knot, share = _place(cosine)
        place = (index * ROW_BLOCKS + COAT_AT) * 4 + knot
        low = dr.gather(mi.Float, self.data, place, active)
        return dr.lerp(low, dr.gather(mi.Float, self.data, place + 1, active), share)


def _place(cosine: mi.Float) -> tuple[mi.UInt32, mi.Float]:
    place = dr.sqrt(dr.clip(cosine, 0.0, 1.0)) * (albedo.KNOTS - 1)
    knot = dr.minimum(mi.UInt32(place), albedo.KNOTS - 2)
    return knot, place - mi.Float(knot)
