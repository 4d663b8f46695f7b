"""How a picture is finished from traced light: exposure, white balance and tone curve. Nothing here is traced."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from usual_lamp.core.camera.exposure import exposure_scale

Tone = Literal["neutral", "filmic", "linear"]
DAYLIGHT = 6504.0
"""K, of D65: with this white nothing is changed."""
Exposure = Annotated[float, Field(ge=-4.0, le=20.0, description="EV at ISO 100")]
White = Annotated[float, Field(ge=2000.0, le=20000.0, description="K; light of this colour is shown without any")]
Contrast = Annotated[float, Field(ge=0.5, le=2.0, description="about middle grey; 1: as it is")]
Saturation = Annotated[float, Field(ge=0.0, le=2.0, description="1: as it is")]
Vignette = Annotated[float, Field(ge=0.0, le=4.0, description="EV by which the corners are darker")]
Glare = Annotated[float, Field(ge=0.0, le=0.5, description="share of the light that spreads round where it falls")]
Sharpening = Annotated[float, Field(ge=0.0, le=2.0)]
Array = NDArray[np.float64]

RGB_TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.072175], [0.0193339, 0.119192, 0.9503041]]
)
"""Linear Rec. 709, D65 white (IEC 61966-2-1)."""
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
"""Cone responses of the Bradford adaptation (as in ICC.1:2010, annex E)."""


class Finish(BaseModel):
    """How recorded light becomes a picture: exposure (EV), white balance (K), tone curve and grading."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False)

    exposure: Exposure = 9.3
    white: White = DAYLIGHT
    tone: Tone = "neutral"
    contrast: Contrast = 1.0
    saturation: Saturation = 1.0
    vignette: Vignette = 0.0
    glare: Glare = 0.0
    sharpening: Sharpening = 0.0

    def matrix(self) -> Array:
        """(3, 3): scene light in cd/m², linear Rec. 709, to picture values in which 1 is recorded white."""
        return white_matrix(self.white) * exposure_scale(self.exposure)


def chromaticity(kelvin: float) -> tuple[float, float]:
    """CIE 1931 x, y of light of a colour temperature.

    From 4000 K on the daylight locus (CIE 15:2004, 3.1), below 3000 K that of a black body in the cubic form of B. Kang
    et al. (J. Korean Phys. Soc. 41(6), 2002); in between they are blended, as the two do not meet.
    """
    t = float(kelvin)
    share = min(max((t - 3000.0) / 1000.0, 0.0), 1.0)
    day, body = _daylight(max(t, 4000.0)), _black_body(min(t, 4000.0))
    x, y = (b + (d - b) * share for d, b in zip(day, body, strict=True))
    return x, y


def _daylight(t: float) -> tuple[float, float]:
    if t <= 7000:
        x = -4.6070e9 / t**3 + 2.9678e6 / t**2 + 0.09911e3 / t + 0.244063
    else:
        x = -2.0064e9 / t**3 + 1.9018e6 / t**2 + 0.24748e3 / t + 0.237040
    return x, -3.0 * x * x + 2.870 * x - 0.275


def _black_body(t: float) -> tuple[float, float]:
    x = -0.2661239e9 / t**3 - 0.2343589e6 / t**2 + 0.8776956e3 / t + 0.179910
    if t <= 2222:
        return x, -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    return x, -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867


@lru_cache(maxsize=64)
def white_matrix(kelvin: float) -> Array:
    """(3, 3), linear Rec. 709 to itself, by Bradford's adaptation; luminance of that white is kept."""
    if abs(kelvin - DAYLIGHT) < 0.5:
        return np.eye(3)
    (x, y), (dx, dy) = chromaticity(kelvin), chromaticity(DAYLIGHT)
    seen, shown = (BRADFORD @ np.array([a / b, 1.0, (1 - a - b) / b]) for a, b in ((x, y), (dx, dy)))
    adapt = np.linalg.inv(BRADFORD) @ np.diag(shown / seen) @ BRADFORD
    return np.asarray(np.linalg.inv(RGB_TO_XYZ) @ adapt @ RGB_TO_XYZ)
