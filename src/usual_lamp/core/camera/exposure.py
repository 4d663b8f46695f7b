"""Exposure from luminance to picture values.

ISO 2720 with the usual K = 12.5 and a lens-flare factor q = 0.65 gives the saturation-based luminance
L_max = 1.2 * 2^EV cd/m² at ISO 100 (ISO 12232, saturation-based speed).
"""

import math

DARKEST = 1e-3
"""cd/m²: what is darker is not lit."""


def exposure_for(luminance: float, share: float) -> float:
    """EV at ISO 100 at which a luminance (cd/m²) is recorded as that share of white. With 12.5 / 120 it is what a meter
    shows that is made by ISO 2720."""
    return math.log2(max(luminance, DARKEST) * exposure_scale(0.0) / share)


def exposure_scale(ev: float) -> float:
    """Factor from scene luminance (cd/m²) to picture values where 1.0 is the brightest that is recorded."""
    return float(1.0 / (1.2 * 2.0**ev))
