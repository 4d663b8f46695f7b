"""How light is sorted in the layers of a picture. No tracer is needed to name them, so this imports none."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

LAYERS = (
    "backdrop",
    "emission",
    "diffuse_direct",
    "diffuse_indirect",
    "specular_direct",
    "specular_indirect",
    "transmission",
)
"""Backdrop and emission are seen straight; the rest is sorted by what the light met last before the camera:
transmission is all that is seen through a wall, clear or rough. They add up to the picture."""
SOURCES = ("backdrop", "surroundings", "glow", "lamps")
"""Where light comes from. They add up to the picture, too."""
DIRECT = ("unshadowed", "shadowed")
"""Direct light on the first surface without and with what stands in its way: their ratio is the shadow layer."""


def shadow(unshadowed: NDArray[np.float32], shadowed: NDArray[np.float32]) -> NDArray[np.float32]:
    """The shadow layer from sums or means of `DIRECT`: the share of direct light that arrives, 1 where there is none
    to arrive."""
    return np.where(unshadowed > 0, shadowed / np.maximum(unshadowed, 1e-6), np.float32(1.0))
