"""Tone curves and the sRGB encoding."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import Tone

Image = NDArray[np.float32]
HABLE, HABLE_BIAS, HABLE_WHITE = (0.15, 0.50, 0.10, 0.20, 0.02, 0.30), 2.0, 11.2
"""Constants of the filmic curve."""


def khronos_neutral(color: Image) -> Image:
    """The Khronos PBR Neutral tone mapper (specification 1.0): colours keep their value up to 0.8 minus the
    Fresnel offset, above that they are compressed and lose colour towards white. Input 1.0 = recorded white."""
    start, desaturation = 0.8 - 0.04, 0.15
    # Channel by channel: numpy takes many times as long along an axis of three.
    channels = np.ascontiguousarray(np.moveaxis(color, -1, 0))
    low = channels.min(axis=0)
    offset = np.where(low < 0.08, low - 6.25 * low * low, 0.04)
    shifted = channels - offset
    peak = channels.max(axis=0) - offset
    d = 1.0 - start
    # The compressed branch is only used above `start`; elsewhere any harmless number will do.
    bright = np.maximum(peak, start)
    new_peak = 1.0 - d * d / (bright + d - start)
    compressed = shifted * new_peak / bright
    g = 1.0 - 1.0 / (desaturation * (bright - new_peak) + 1.0)
    compressed = compressed * (1 - g) + new_peak * g
    return np.moveaxis(np.where(peak < start, shifted, compressed).astype(np.float32, copy=False), 0, -1)


def srgb_encode(linear: Image) -> Image:
    """IEC 61966-2-1: linear light 0..1 to encoded values 0..1; values outside are clipped."""
    clipped = np.clip(linear, 0.0, 1.0)
    return np.asarray(
        np.where(clipped <= 0.0031308, clipped * 12.92, 1.055 * clipped ** (1 / 2.4) - 0.055),
        dtype=np.float32,
    )


def filmic(color: Image) -> Image:
    """A curve with the toe and shoulder of film, channel by channel: J. Hable, "Filmic Tonemapping Operators" (2010),
    with his constants, his exposure bias of 2 and a white point of 11.2."""
    return np.asarray(_hable(HABLE_BIAS * color) / _hable(np.float32(HABLE_WHITE)), dtype=np.float32)


def _hable(x: Image | np.float32) -> Image:
    a, b, c, d, e, f = HABLE
    return np.asarray((x * (a * x + c * b) + d * e) / (x * (a * x + b) + d * f) - e / f, dtype=np.float32)


def tone_map(color: Image, tone: Tone) -> Image:
    """Picture values (1 = recorded white) to display values 0..1, still linear."""
    if tone == "linear":
        return color
    return khronos_neutral(color) if tone == "neutral" else filmic(color)
