"""Directional albedo of microfacet lobes, by quadrature over visible normals: what energy compensation needs.

A curve over the cosine is computed once an appearance, on knots spaced by the square root (albedo bends most
near grazing). Cheap enough to redo on every edit, so nothing is stored.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.trace import microfacet
from usual_lamp.core.trace.engine import dr, mi

KNOTS = 24
QUADRATURE = 40
GOLDEN = 0.618033988749895
Curve = NDArray[np.float32]


def cosines() -> NDArray[np.float64]:
    """Cosines of the knots: squares of equal steps, the first lifted off zero."""
    return np.maximum(np.linspace(0.0, 1.0, KNOTS) ** 2, 1e-4)


def average(curve: Curve) -> float:
    """Cosine-weighted hemispherical mean, 2 ∫ E(μ) μ dμ; exact for the piecewise-linear curve in sqrt(μ)."""
    fine = (np.arange(4096) + 0.5) / 4096
    values = np.interp(np.sqrt(fine), np.linspace(0.0, 1.0, KNOTS), curve)
    return float((2.0 * values * fine).mean())


@lru_cache(maxsize=4096)
def curves(roughness: float, eta: float, anisotropy: float = 0.0) -> tuple[Curve, Curve, Curve, Curve, Curve]:
    """Albedo of a GGX interface at KNOTS cosines: of mirror facets; of a dielectric, reflected and in all; swings.

    `eta` is the index on the far side over the near side; "total" adds what single scattering transmits.
    Anisotropic facets are averaged over the azimuth; that of mirrors then is about
    mean + first swing * cos(2 azimuth) + second swing * cos(4 azimuth).
    """
    grid = (np.arange(QUADRATURE) + 0.5) / QUADRATURE
    u, v, mu = (a.ravel() for a in np.meshgrid(grid, grid, cosines(), indexing="ij"))
    order = np.argsort(np.tile(np.arange(KNOTS), QUADRATURE**2), kind="stable")
    mu_ = mi.Float(mu[order].astype(np.float32))
    sine = dr.safe_sqrt(1.0 - dr.square(mu_))
    turn = mi.Float(np.arange(len(mu)) * GOLDEN % 1.0 * 2 * np.pi)
    wi = mi.Vector3f(sine * dr.cos(turn), sine * dr.sin(turn), mu_)
    a = microfacet.alpha(dr.opaque(mi.Float, roughness), dr.opaque(mi.Float, anisotropy))
    eta_ = dr.opaque(mi.Float, eta)
    h = microfacet.sample_visible(wi, a, mi.Point2f(mi.Float(u[order]), mi.Float(v[order])))
    cos_h = dr.dot(wi, h)
    f, cos_t = microfacet.dielectric(dr.abs(cos_h), eta_)
    li = microfacet.smith_lambda(wi, a)
    up = 2.0 * cos_h * h - wi
    through = h * (dr.abs(cos_h) / eta_ - cos_t) - wi / eta_

    def weight(w: mi.Vector3f) -> mi.Float:
        return (1.0 + li) / (1.0 + li + microfacet.smith_lambda(w, a))

    mirrored = dr.select(up.z > 0, weight(up), 0.0)
    passed = dr.select(through.z < 0, weight(through), 0.0)
    swings = (2.0 * dr.cos(k * turn) * (mirrored - 1.0) for k in (2.0, 4.0))
    lobes = (mirrored, f * mirrored, f * mirrored + (1.0 - f) * passed, *swings)
    means = [np.array(lobe).reshape(KNOTS, -1).mean(axis=1).astype(np.float32) for lobe in lobes]
    if not anisotropy:
        means[3:] = [np.zeros(KNOTS, np.float32)] * 2
    mirror, reflected, total, second, fourth = means
    return mirror, reflected, total, second, fourth
