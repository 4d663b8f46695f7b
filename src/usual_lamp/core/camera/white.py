"""White balance from something that is known to be grey."""

from __future__ import annotations

import numpy as np
import scipy  # its parts are loaded when they are first used

from usual_lamp.core.camera.finish import Array, white_matrix

WARMEST, COLDEST = 2000.0, 20000.0
"""K, of what a shot may be balanced for."""
DARK, BRIGHT = 0.004, 0.97
"""Of shown white, linear: beyond them a colour says nothing."""


class NoGrey(ValueError):
    """A colour that tells no white."""


def white_from_grey(shown: Array, white: float) -> tuple[float, float]:
    """The white (K) under which a colour is grey, and how far from grey it stays, as a share of its luminance.

    `shown` is linear Rec. 709 (3,) as it is seen when the picture is balanced for `white` (K), 1 is white. Only the
    warmth is balanced: what is green or magenta stays a little so. Raises NoGrey for what is black or burnt out.
    """
    color = np.asarray(shown, np.float64)
    if color.max() < DARK:
        raise NoGrey("It is too dark there to tell a colour. Click a brighter grey.")
    if color.max() > BRIGHT:
        raise NoGrey("It is burnt out there. Click a grey that is less bright.")
    light = np.maximum(np.linalg.inv(white_matrix(white)) @ color, 1e-6)

    def tint(mired: float) -> float:
        """How far from grey the light is when it is balanced for 10⁶/K: the widest ratio of two channels, as log."""
        balanced = np.maximum(white_matrix(1e6 / mired) @ light, 1e-9)
        return float(np.ptp(np.log(balanced)))

    best = scipy.optimize.minimize_scalar(
        tint, bounds=(1e6 / COLDEST, 1e6 / WARMEST), method="bounded", options={"xatol": 0.05}
    )
    kelvin = float(1e6 / best.x)
    balanced = white_matrix(kelvin) @ light
    return kelvin, float(np.ptp(balanced) / max(balanced.mean(), 1e-9))
