"""The colour of a glowing body by its temperature: Planck's law over the CIE 1931 observer.

Observer: the multi-lobe fit of C. Wyman, P.-P. Sloan and P. Shirley, "Simple Analytic Approximations to the CIE XYZ
Color Matching Functions", JCGT 2(2), 2013.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

COLDEST, HOTTEST = 1000.0, 20_000.0
"""K."""
XYZ_TO_RGB = np.array([[3.2404542, -1.5371385, -0.4985314], [-0.9692660, 1.8760108, 0.0415560],
                       [0.0556434, -0.2040259, 1.0572252]])  # fmt: skip
"""Linear Rec. 709 of CIE XYZ (IEC 61966-2-1)."""
LOBES = (
    ((1.056, 599.8, 37.9, 31.0), (0.362, 442.0, 16.0, 26.7), (-0.065, 501.1, 20.4, 26.2)),
    ((0.821, 568.8, 46.9, 40.5), (0.286, 530.9, 16.3, 31.1)),
    ((1.217, 437.0, 11.8, 36.0), (0.681, 459.0, 26.0, 13.8)),
)
Array = NDArray[np.float64]


def observer(wavelengths: Array) -> Array:
    """(N, 3) colour matching functions at wavelengths in nm."""

    def lobe(height: float, center: float, below: float, above: float) -> Array:
        width = np.where(wavelengths < center, below, above)
        return np.asarray(height * np.exp(-0.5 * ((wavelengths - center) / width) ** 2))

    return np.stack([sum(lobe(*one) for one in lobes) for lobes in LOBES], axis=-1)  # type: ignore[misc]


@lru_cache(maxsize=256)
def black_body(kelvin: float) -> tuple[float, float, float]:
    """Linear Rec. 709, brightest channel 1; what lies outside that space is cut. Raises ValueError."""
    if not COLDEST <= kelvin <= HOTTEST:
        raise ValueError(f"A colour temperature lies between {COLDEST:.0f} and {HOTTEST:.0f} K.")
    wavelengths = np.arange(380.0, 781.0, 5.0)
    power = wavelengths**-5.0 / np.expm1(1.438777e7 / (wavelengths * kelvin))
    rgb = np.maximum(XYZ_TO_RGB @ (power @ observer(wavelengths)), 0.0)
    r, g, b = (round(float(v), 5) for v in rgb / rgb.max())
    return r, g, b
