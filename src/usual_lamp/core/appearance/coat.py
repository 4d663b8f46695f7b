"""What a coat does to the body beneath it."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from usual_lamp.core.appearance.openpbr import OpenPBR

Array = NDArray[np.float64]


def darkening(p: OpenPBR, albedo: ArrayLike) -> Array:
    """Factor on the light that a body of this albedo, (3,), sends out through its coat.

    The coat throws part of that light back onto the body, where some of it is lost (OpenPBR Surface 1.1, "Coat
    darkening"). `coat_weight` is not heeded: this is where the coat is.
    """
    n = max(p.coat_ior, 1.0001)
    thrown_back = 1 - (1 - ((n - 1) / (n + 1)) ** 2) / n**2
    dimmed = (1 - thrown_back) / (1 - np.minimum(albedo, 1.0) * thrown_back)
    return np.asarray(1 + p.coat_darkening * (dimmed - 1))
