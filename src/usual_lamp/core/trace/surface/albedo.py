"""Directional albedo of microfacet lobes, by quadrature over visible normals: what energy compensation needs.

A curve over the cosine is computed once an appearance, on knots spaced by the square root (albedo bends most
near grazing). Cheap enough to redo on every edit, so nothing is stored.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface import microfacet

KNOTS = 24
QUADRATURE = 128
GOLDEN = 0.618033988749895
Curve = NDArray[np.float32]


def cosines() -> NDArray[np.float64]:
    """Cosines of the knots: squares of equal steps, the first lifted off zero."""
    return np.maximum(np.linspace(0.0, 1.0, KNOTS) ** 2, 1e-4)


def average(curve: Curve) -> float:
    """Cosine-weighted hemispherical mean, 2 ∫ E(μ) μ dμ, for the piecewise-linear curve in sqrt(μ)."""
    return float(curve @ _shares())


@lru_cache(maxsize=1)
def _shares() -> NDArray[np.float64]:
    """What each knot adds to the mean."""
    fine = (np.arange(4096) + 0.5) / 4096
    knots = np.linspace(0.0, 1.0, KNOTS)
    hats = np.stack([np.interp(np.sqrt(fine), knots, hat) for hat in np.eye(KNOTS)])
    return np.asarray(hats @ (2.0 * fine) / len(fine))


@lru_cache(maxsize=1)
def _views() -> tuple[mi.Vector3f, mi.Float, mi.Point2f]:
    """Directions of view, their azimuths and points of the unit square: QUADRATURE² of them for each knot in turn."""
    grid = (np.arange(QUADRATURE) + 0.5) / QUADRATURE
    u, v = (np.tile(a.ravel(), KNOTS) for a in np.meshgrid(grid, grid, indexing="ij"))
    # Sheared, each row by another step: where facets begin to throw light below the surface, a whole row of a straight
    # grid would do so at once.
    place = mi.Point2f((u + v * QUADRATURE * GOLDEN) % 1.0, (v + u * QUADRATURE * GOLDEN) % 1.0)
    mu = mi.Float(np.repeat(cosines(), QUADRATURE**2))
    turn = mi.Float(np.arange(len(u)) * GOLDEN % 1.0 * 2 * np.pi)
    sine = dr.safe_sqrt(1.0 - dr.square(mu))
    wi = mi.Vector3f(sine * dr.cos(turn), sine * dr.sin(turn), mu)
    dr.make_opaque(wi, turn, place)
    return wi, turn, place


@lru_cache(maxsize=4096)
def curves(roughness: float, eta: float, anisotropy: float = 0.0) -> tuple[Curve, Curve, Curve, Curve, Curve]:
    """Albedo of a GGX interface at KNOTS cosines: of mirror facets; of a dielectric, reflected and in all; swings.

    `eta` is the index on the far side over the near side; "total" adds what single scattering transmits.
    Anisotropic facets are averaged over the azimuth; that of mirrors then is about
    mean + first swing * cos(2 azimuth) + second swing * cos(4 azimuth).
    """
    wi, turn, place = _views()
    a = microfacet.alpha(dr.opaque(mi.Float, roughness), dr.opaque(mi.Float, anisotropy))
    eta_ = dr.opaque(mi.Float, eta)
    h = microfacet.sample_visible(wi, a, place)
    cos_h = dr.dot(wi, h)
    f, cos_t = microfacet.dielectric(dr.abs(cos_h), eta_)
    li = microfacet.smith_lambda(wi, a)
    up = 2.0 * cos_h * h - wi
    through = h * (dr.abs(cos_h) / eta_ - cos_t) - wi / eta_

    def weight(w: mi.Vector3f) -> mi.Float:
        return (1.0 + li) / (1.0 + li + microfacet.smith_lambda(w, a))

    mirrored = dr.select(up.z > 0, weight(up), 0.0)
    passed = dr.select(through.z < 0, weight(through), 0.0)
    lobes = [mirrored, f * mirrored, f * mirrored + (1.0 - f) * passed]
    if anisotropy:
        lobes += [2.0 * dr.cos(k * turn) * (mirrored - 1.0) for k in (2.0, 4.0)]
    dr.eval(lobes)
    means = [np.array(lobe).reshape(KNOTS, -1).mean(axis=1).astype(np.float32) for lobe in lobes]
    mirror, reflected, total, *swings = means
    second, fourth = swings or [np.zeros(KNOTS, np.float32)] * 2
    return mirror, reflected, total, second, fourth
