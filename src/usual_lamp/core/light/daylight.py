"""A clear sky that follows the sun.

After L. Hošek and A. Wilkie, "An Analytic Model for Full Spectral Sky-Dome Radiance", ACM Transactions on Graphics
31(4), 2012, with its published coefficients for linear Rec. 709, see `skies/README.md`.
"""

from __future__ import annotations

import re
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.light.lamps import MOST_LUX
from usual_lamp.core.light.sun import beam

Array = NDArray[np.float64]
NAME = "daylight"
PLACED = re.compile(rf"{NAME}:(-?[\d.]+),(-?[\d.]+),([\d.]+)")
"""Names the sky of a sun: azimuth and elevation in degrees, turbidity."""
CLEAREST, HAZIEST = 1.0, 10.0
"""Turbidity between which the model was fitted."""
FIRST_SUN = (40.0, 40.0, 3.0)
"""Azimuth, elevation and turbidity of a sky in a lighting without a sun."""
GROUND = 0.2
"""Reflectance of the ground under the sky: grass and gravel (common practice, no published source)."""
LUMENS = 683.0
"""lm/W: what the coefficients give is weighted by the eye's sensitivity already."""


def name_of(azimuth: float, elevation: float, turbidity: float) -> str:
    """The name of the sky of a sun, see PLACED."""
    return f"{NAME}:{azimuth:.2f},{elevation:.2f},{turbidity:.2f}"


@lru_cache(maxsize=1)
def _coefficients() -> tuple[Array, Array]:
    """(10, 2, 6, 3, 9) and (10, 2, 6, 3): by turbidity, ground of 0 and 1, place on the curve, colour."""
    with np.load(Path(__file__).parent / "skies" / "clear.npz") as found:
        return found["params"], found["radiance"]


def _read(table: Array, elevation: float, turbidity: float) -> Array:
    """Linear in turbidity and ground, a quintic Bézier curve in the cube root of the sun's height."""
    t = float(np.clip(turbidity, CLEAREST, HAZIEST)) - 1.0
    low = min(int(t), len(table) - 2)
    both = table[low] * (1 - (t - low)) + table[low + 1] * (t - low)
    points = both[0] * (1 - GROUND) + both[1] * GROUND
    x = (max(elevation, 0.0) / 90.0) ** (1 / 3)
    weights = np.array([1, 5, 10, 10, 5, 1]) * x ** np.arange(6) * (1 - x) ** np.arange(5, -1, -1)
    return np.asarray(np.tensordot(weights, points, axes=1))


def daylight(toward: Array, azimuth: float, elevation: float, turbidity: float) -> Array:
    """(..., 3) cd/m², linear Rec. 709, of the sky in unit directions above the horizon, z up, without the sun itself.

    Angles in degrees, azimuth from the front. As bright as outside; a sun below the horizon counts as at it.
    """
    params, radiance = _coefficients()
    numbers, mean = _read(params, elevation, turbidity), _read(radiance, elevation, turbidity)
    high, turn = np.radians(max(elevation, 0.0)), np.radians(azimuth)
    sun = np.array([np.cos(high) * np.sin(turn), -np.cos(high) * np.cos(turn), np.sin(high)])
    cosine = np.clip(toward[..., 2], 0.0, 1.0)[..., None]
    near = np.clip(toward @ sun, -1.0, 1.0)[..., None]
    a, b, c, d, e, f, g, h, i = numbers.T
    glare = (1 + near**2) / (1 + i**2 - 2 * i * near) ** 1.5
    graded = 1 + a * np.exp(b / (cosine + 0.01))
    scattered = c + d * np.exp(e * np.arccos(near)) + f * near**2 + g * glare + h * np.sqrt(cosine)
    return np.asarray(np.maximum(graded * scattered * mean, 0.0) * LUMENS)


def placed_sky(name: str, toward: Array) -> Array:
    """The sky of a name, see PLACED, as bright as it goes with the sun of `arranging.put_sun`."""
    found = PLACED.fullmatch(name)
    azimuth, elevation, turbidity = (float(value) for value in found.groups()) if found else FIRST_SUN
    return daylight(toward, azimuth, elevation, turbidity) * beside_our_sun()


def sun_on_ground(name: str) -> float:
    """lx that the sun of a sky gives on level ground."""
    found = PLACED.fullmatch(name)
    _, elevation, turbidity = (float(value) for value in found.groups()) if found else FIRST_SUN
    return beam(elevation, turbidity) * float(np.sin(np.radians(max(elevation, 0.0)))) * beside_our_sun()


def beside_our_sun() -> float:
    """What the light outside is multiplied by, so that it goes with the sun of `arranging.put_sun`."""
    return MOST_LUX / beam(90.0, 2.0)
