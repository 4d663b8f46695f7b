"""Appearances packed into one float table, so that all of them share one compiled kernel.

A row holds the parameters and the albedo curves. Changing a colour or a roughness rewrites numbers in the
table; nothing is compiled and no geometry is rebuilt.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.trace import albedo
from usual_lamp.core.trace.engine import dr, mi

FIELDS: dict[str, int] = {
    "base": 3,
    "metalness": 1,
    "specular_color": 3,
    "specular_weight": 1,
    "roughness": 1,
    "ior": 1,
    "transmission": 1,
    "tint": 3,
    "absorption": 3,
    "thin": 1,
    "coat": 1,
    "coat_color": 3,
    "coat_roughness": 1,
    "coat_ior": 1,
    "emission": 3,
    "mirror_average": 1,
    "reflected_average": 1,
    "total_average_out": 1,
    "total_average_in": 1,
    "mirror_curve": albedo.KNOTS,
    "reflected_curve": albedo.KNOTS,
    "total_curve_out": albedo.KNOTS,
    "total_curve_in": albedo.KNOTS,
    "coat_curve": albedo.KNOTS,
}
OFFSETS = dict(zip(FIELDS, np.cumsum([0, *FIELDS.values()])[:-1].tolist(), strict=True))
WIDTH = sum(FIELDS.values())


def row(appearance: Appearance) -> NDArray[np.float32]:
    """The table row of one appearance, (WIDTH,)."""
    p = appearance.params
    thick = p.transmission_depth > 0 and not p.geometry_thin_walled
    color = np.maximum(p.transmission_color, 1e-4)
    ior = max(p.specular_ior, 1.0001)
    mirror, reflected, total_out = albedo.curves(p.specular_roughness, ior)
    _, _, total_in = albedo.curves(p.specular_roughness, 1.0 / ior)
    _, coat, _ = albedo.curves(p.coat_roughness, max(p.coat_ior, 1.0001))
    values: dict[str, object] = {
        "base": np.multiply(p.base_color, p.base_weight),
        "metalness": p.base_metalness,
        "specular_color": p.specular_color,
        "specular_weight": p.specular_weight,
        "roughness": p.specular_roughness,
        "ior": ior,
        "transmission": p.transmission_weight,
        # Without a depth the colour is that of the whole passage: half of it (by power) at each of two surfaces.
        "tint": (1.0, 1.0, 1.0) if thick else (color if p.geometry_thin_walled else np.sqrt(color)),
        "absorption": -np.log(color) / p.transmission_depth if thick else (0.0, 0.0, 0.0),
        "thin": float(p.geometry_thin_walled),
        "coat": p.coat_weight,
        "coat_color": p.coat_color,
        "coat_roughness": p.coat_roughness,
        "coat_ior": max(p.coat_ior, 1.0001),
        "emission": np.multiply(p.emission_color, p.emission_luminance),
        "mirror_average": albedo.average(mirror),
        "reflected_average": albedo.average(reflected),
        "total_average_out": albedo.average(total_out),
        "total_average_in": albedo.average(total_in),
        "mirror_curve": mirror,
        "reflected_curve": reflected,
        "total_curve_out": total_out,
        "total_curve_in": total_in,
        "coat_curve": coat,
    }
    return np.concatenate([np.broadcast_to(values[name], FIELDS[name]) for name in FIELDS]).astype(np.float32)


class AppearanceTable:
    """The rows of all appearances of a scene, as a Dr.Jit array that kernels gather from."""

    def __init__(self, appearances: list[Appearance]) -> None:
        self.data = mi.Float(np.concatenate([row(a) for a in appearances]))
        dr.make_opaque(self.data)

    def read(self, name: str, index: mi.UInt32, active: mi.Bool) -> mi.Float | mi.Color3f:
        """A parameter of the appearances with these indices: Float, or Color3f for three-wide fields."""
        base = index * WIDTH + OFFSETS[name]
        parts = [dr.gather(mi.Float, self.data, base + k, active) for k in range(FIELDS[name])]
        return parts[0] if len(parts) == 1 else mi.Color3f(*parts)

    def curve(self, name: str, index: mi.UInt32, cosine: mi.Float, active: mi.Bool) -> mi.Float:
        """An albedo curve at these cosines, linear between knots."""
        place = dr.sqrt(dr.clip(cosine, 0.0, 1.0)) * (albedo.KNOTS - 1)
        knot = dr.minimum(mi.UInt32(place), albedo.KNOTS - 2)
        base = index * WIDTH + OFFSETS[name] + knot
        low = dr.gather(mi.Float, self.data, base, active)
        high = dr.gather(mi.Float, self.data, base + 1, active)
        return dr.lerp(low, high, place - mi.Float(knot))
