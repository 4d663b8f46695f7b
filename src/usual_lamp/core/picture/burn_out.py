"""From which luminance a glow loses its colour to white in a shot: what exposure and tone curve make of it."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from usual_lamp.core.appearance.color_difference import linear_to_lab
from usual_lamp.core.camera import Finish
from usual_lamp.core.picture.tone import tone_map

LUMINANCES = np.logspace(0.0, 6.0, 481)
"""cd/m²."""
PALE = 8.0
"""CIELAB chroma under which there is no colour to lose."""


@lru_cache(maxsize=1024)
def burns_from(color: tuple[float, float, float], look: Finish) -> float | None:
    """cd/m² at which half of the glow's greatest chroma is gone; None for white and for what never gets there."""
    glow = (LUMINANCES[:, None] * np.asarray(color)).astype(np.float32)
    shown = tone_map(np.maximum(glow @ look.matrix().T.astype(np.float32), 0.0)[None], look.tone)[0]
    lab = linear_to_lab(np.clip(shown, 0.0, 1.0).astype(np.float64))
    chroma = np.hypot(lab[:, 1], lab[:, 2])
    best = int(chroma.argmax())
    if chroma[best] < PALE:
        return None
    pale = np.flatnonzero(chroma[best:] < chroma[best] / 2)
    return float(LUMINANCES[best + pale[0]]) if len(pale) else None
