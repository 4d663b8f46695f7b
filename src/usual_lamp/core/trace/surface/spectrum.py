"""Reflectance by wavelength, and the linear Rec. 709 colour it has in daylight.

Thin films and measured metals are worked out here, wavelength by wavelength, into a curve over the cosine of
incidence that the kernel looks up. That is exact where formulas for three channels are not, and as quick.

Sources: Airy's sum for a single film, e.g. Born and Wolf, Principles of Optics, section 7.6; Fresnel's equations with a
complex index, ibid. section 14.2; CIE 1931 observer and D65 as tabulated by Mitsuba; n and k of metals from the
measurements that Mitsuba ships (mostly Palik, Handbook of Optical Constants of Solids).
"""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.trace.engine import mi

WAVELENGTHS = np.arange(380.0, 781.0, 5.0)
"""Nanometres."""
XYZ_TO_709 = np.array(
    [[3.2404542, -1.5371385, -0.4985314], [-0.969266, 1.8760108, 0.041556], [0.0556434, -0.2040259, 1.0572252]]
)
"""IEC 61966-2-1, D65 white."""
Array = NDArray[np.float64]
Complex = NDArray[np.complexfloating]


@lru_cache(maxsize=1)
def weights() -> Array:
    """(W, 3): a spectrum of reflectance times this is its colour under D65; an even 1 gives white exactly."""
    lambda_ = mi.Float(WAVELENGTHS)
    observer = np.array(mi.cie1931_xyz(lambda_))
    daylight = np.array(mi.cie_d65(lambda_))
    rgb = XYZ_TO_709 @ (observer * daylight)
    return np.asarray((rgb / rgb.sum(axis=1, keepdims=True)).T)


def to_rgb(reflectance: Array) -> Array:
    """(..., W) to (..., 3), linear Rec. 709; what the primaries cannot show is clipped."""
    return np.clip(reflectance @ weights(), 0.0, 1.0)


@lru_cache(maxsize=32)
def measured(symbol: str) -> Complex:
    """n + ik at WAVELENGTHS. Raises FileNotFoundError for a metal without measurements."""
    folder = Path(mi.__file__).parent / "data" / "ior"
    # Of nickel and vanadium there are Palik's numbers only, under a name of their own.
    name = symbol if (folder / f"{symbol}.eta.spd").exists() else f"{symbol}_palik"
    n, k = (np.loadtxt(folder / f"{name}.{part}.spd", comments="#") for part in ("eta", "k"))
    return np.asarray(
        np.interp(WAVELENGTHS, n[:, 0], n[:, 1]) + 1j * np.interp(WAVELENGTHS, k[:, 0], k[:, 1]), np.complex128
    )


def amplitudes(cosine: Complex, before: Array | Complex, after: Array | Complex) -> tuple[Complex, Complex, Complex]:
    """Fresnel amplitudes r_s and r_p at an interface, and the (complex) cosine behind it.

    `cosine` is that in front, which may be complex in turn; indices n + ik.
    """
    beyond = np.sqrt(1.0 - (before / after) ** 2 * (1.0 - cosine**2) + 0j)
    s = (before * cosine - after * beyond) / (before * cosine + after * beyond)
    p = (after * cosine - before * beyond) / (after * cosine + before * beyond)
    return np.asarray(s), np.asarray(p), np.asarray(beyond)


def bare(cosine: Array, substrate: Array | Complex) -> Array:
    """Unpolarised reflectance in air: (C,) cosines, (W,) index n + ik, to (C, W)."""
    s, p, _ = amplitudes(cosine[:, None] + 0j, np.ones(1), substrate[None])
    return np.asarray((np.abs(s) ** 2 + np.abs(p) ** 2) / 2)


def filmed(cosine: Array, film: float, thickness: float, substrate: Array | Complex) -> Array:
    """The same under a film of index `film`, `thickness` in nm: Airy's sum over all reflections in it."""
    s1, p1, inner = amplitudes(cosine[:, None] + 0j, np.ones(1), np.full(1, film))
    s2, p2, _ = amplitudes(inner, np.full(1, film), substrate[None])
    phase = np.exp(4j * np.pi * film * thickness * inner / WAVELENGTHS[None])
    s = (s1 + s2 * phase) / (1 + s1 * s2 * phase)
    p = (p1 + p2 * phase) / (1 + p1 * p2 * phase)
    return np.asarray((np.abs(s) ** 2 + np.abs(p) ** 2) / 2)


def index_of(color: tuple[float, float, float]) -> Array:
    """(W,) index of a metal known by its colour alone: the real one that mirrors that much straight on.

    Between the primaries' peaks (about 465, 545 and 610 nm) the reflectance is interpolated.
    """
    f0 = np.sqrt(np.clip(np.interp(WAVELENGTHS, [465.0, 545.0, 610.0], color[::-1]), 0.0, 0.9999))
    return np.asarray((1 + f0) / (1 - f0))
