"""Exposure from luminance to picture values.

ISO 2720 with the usual K = 12.5 and a lens-flare factor q = 0.65 gives the saturation-based luminance
L_max = 1.2 * 2^EV cd/m² at ISO 100 (ISO 12232, saturation-based speed).
"""

import math

METER = 12.5
"""K of ISO 2720, cd s / (m² ISO)."""
DARKEST = 1e-3
"""cd/m²: below it a meter shows nothing."""


def metered(luminance: float) -> float:
    """EV at ISO 100 that a reflected-light meter shows for a luminance in cd/m² (ISO 2720)."""
    return math.log2(max(luminance, DARKEST) * 100.0 / METER)


def exposure_scale(ev: float) -> float:
    """Factor from scene luminance (cd/m²) to picture values where 1.0 is the brightest that is recorded."""
    return float(1.0 / (1.2 * 2.0**ev))
