"""Fuzz: the soft rim of cloth, felt and soft-touch paint.

Source: A. Estevez and C. Kulla, "Production Friendly Microfacet Sheen BRDF", SIGGRAPH course 2017: an inverted
distribution of fibres, with the smooth denominator of D. Neubelt and M. Pettineo in place of shadowing. OpenPBR leaves
the model open; this one is reciprocal. What would gain light at the rim is scaled down.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.trace.engine import dr, mi

LEAST_ROUGHNESS = 0.1


def fuzz(wi: mi.Vector3f, wo: mi.Vector3f, roughness: mi.Float) -> mi.Float:
    """The BRDF times the cosine of wo, before `scale`."""
    h = dr.normalize(wi + wo)
    steep = dr.rcp(dr.maximum(roughness, LEAST_ROUGHNESS))
    fibres = (2.0 + steep) * dr.power(dr.maximum(1.0 - dr.square(h.z), 1e-6), 0.5 * steep) * dr.inv_two_pi
    return fibres * wo.z / (4.0 * dr.maximum(wi.z + wo.z - wi.z * wo.z, 1e-4))


@lru_cache(maxsize=256)
def curve(roughness: float, knots: tuple[float, ...]) -> tuple[NDArray[np.float32], float]:
    """Directional albedo at the knots' cosines and the scale in it, which keeps it at 1 at most."""
    steps = 96
    mu_o = (np.arange(steps) + 0.5) / steps
    phi = (np.arange(steps) + 0.5) * np.pi / steps
    i, o, a = (g.ravel() for g in np.meshgrid(knots, mu_o, phi, indexing="ij"))
    wi = mi.Vector3f(np.sqrt(1 - i**2), np.zeros_like(i), i)
    wo = mi.Vector3f(np.sqrt(1 - o**2) * np.cos(a), np.sqrt(1 - o**2) * np.sin(a), o)
    value = np.array(fuzz(wi, wo, dr.opaque(mi.Float, roughness))).reshape(len(knots), -1).mean(axis=1) * 2 * np.pi
    scale = float(min(1.0, 1.0 / value.max()))
    return np.asarray(value * scale, np.float32), scale
