"""Rough diffuse reflection that keeps its energy: OpenPBR's base at a `base_diffuse_roughness` above 0.

Source: J. Portsmouth, P. Kutz, S. Hill, "EON: A Practical Energy-Preserving Rough Diffuse BRDF", JCGT 14(1), 2025
(Fujii's Oren-Nayar plus what it loses between facets, given back). The polynomial of the albedo is theirs; the
tests integrate it anew.
"""

from __future__ import annotations

import math

from usual_lamp.core.trace.engine import dr, mi

FIRST = 0.5 - 2.0 / (3.0 * math.pi)
SECOND = 2.0 / 3.0 - 28.0 / (15.0 * math.pi)
ALBEDO = (0.0571085289, 0.491881867, -0.332181442, 0.0714429953)
"""Coefficients of (1 - cosine), its square, cube and fourth power."""


def single_albedo(cosine: mi.Float, roughness: mi.Float) -> mi.Float:
    """Directional albedo of white facets from one bounce."""
    x = 1.0 - cosine
    bent = x * (ALBEDO[0] + x * (ALBEDO[1] + x * (ALBEDO[2] + x * ALBEDO[3])))
    return (1.0 + roughness * bent) / (1.0 + FIRST * roughness)


def rough_diffuse(wi: mi.Vector3f, wo: mi.Vector3f, color: mi.Color3f, roughness: mi.Float) -> mi.Color3f:
    """π times the BRDF, for directions above the surface: `color` everywhere at roughness 0."""
    s = dr.dot(wi, wo) - wi.z * wo.z
    facing = dr.select(s > 0, s / dr.maximum(dr.maximum(wi.z, wo.z), 1e-6), s)
    scale = dr.rcp(1.0 + FIRST * roughness)
    average = scale * (1.0 + SECOND * roughness)
    lost_i, lost_o = 1.0 - single_albedo(wi.z, roughness), 1.0 - single_albedo(wo.z, roughness)
    again = dr.square(color) * average / (1.0 - color * (1.0 - average))
    spread = dr.maximum(lost_i, 0.0) * dr.maximum(lost_o, 0.0) / dr.maximum(1.0 - average, 1e-6)
    return color * (scale * (1.0 + roughness * facing)) + again * spread
