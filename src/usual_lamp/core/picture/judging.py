"""To judge a picture by: its luminance in false colours, and whether the product stands out from what is behind it.

Luminance is that of the scene in cd/m², before white balance and tone curve. The backdrop is a colour of the picture:
it counts as the luminance that would be shown so at the present exposure.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from usual_lamp.core.camera import Finish, exposure_for, exposure_scale
from usual_lamp.core.camera.exposure import DARKEST as UNLIT
from usual_lamp.core.light.surroundings import LUMINANCE
from usual_lamp.core.picture.finishing import GREY, Clean, finish
from usual_lamp.core.picture.tone import Image

Bytes = NDArray[np.uint8]
DARKEST, BRIGHTEST = -6.0, 4.0
"""EV from the middle, of the ends of the scale."""
RAMP = (
    (24, 28, 58), (40, 62, 120), (36, 104, 148), (38, 142, 142), (72, 170, 110),
    (150, 190, 84), (222, 200, 78), (236, 158, 64), (240, 196, 150), (252, 246, 232),
)  # fmt: skip
"""sRGB along the scale, one for each EV; each is lighter than the one before, but for the warm turn near its end."""
CLIPPED, DROWNED = (210, 24, 60), (112, 40, 150)
"""Marks for what is burnt out and for what is black in the finished picture."""
WHITE_8, BLACK_8 = 254, 2
LOST = 6.0
"""Difference in L* below which an edge is hardly seen (about three times what is just noticed; common practice, no
published source)."""
OWN_LIGHT = 0.35
"""Times the backdrop's share in a pixel that light of its own must be to make it one of the product."""
BESIDE = 2.0
"""Pixels, of the blur by which both sides of the outline are read."""


def luminance(clean: Clean, look: Finish) -> Image:
    """(H, W) cd/m²."""
    light = clean.color @ LUMINANCE.astype(np.float32)
    if clean.backdrop is not None:
        light = light + (clean.backdrop @ LUMINANCE.astype(np.float32)) / np.float32(exposure_scale(look.exposure))
    return np.asarray(light, np.float32)


def scale_ends(look: Finish) -> tuple[float, float]:
    """cd/m² at both ends of the scale."""
    middle = GREY / exposure_scale(look.exposure)
    return float(middle * 2.0**DARKEST), float(middle * 2.0**BRIGHTEST)


def false_colors(clean: Clean, look: Finish) -> Bytes:
    """(H, W, 3) 8-bit sRGB: luminance along RAMP, even in EV, with marks for what is clipped and what is black."""
    low, high = scale_ends(look)
    place = np.log2(np.maximum(luminance(clean, look), low * 0.5) / low) / np.log2(high / low) * (len(RAMP) - 1)
    steps = np.arange(len(RAMP))
    colors = np.stack([np.interp(place, steps, np.array(RAMP)[:, k]) for k in range(3)], axis=-1)
    shown = finish(clean, look)
    most = shown.max(axis=2)
    colors[most <= BLACK_8] = DROWNED
    colors[most >= WHITE_8] = CLIPPED
    return np.asarray(colors + 0.5, np.uint8)


@dataclass(frozen=True)
class Outline:
    """How the product stands out from what is behind it."""

    lost: float
    """Share of its outline that differs by less than LOST."""
    where: str
    """The side on which most of that lies: top, bottom, left or right; empty where nothing is lost."""
    over: float
    """EV by which the product is brighter, as it is shown, than what is behind it; means of both."""


def outline(clean: Clean, look: Finish) -> Outline | None:
    """Of the product against the backdrop; None where there is no outline in the picture."""
    if clean.backdrop is None:
        return None
    product = _product(clean, look)
    if not product.any() or product.all():
        return None
    edge = product & ~scipy.ndimage.binary_erosion(product, border_value=1)
    edge &= scipy.ndimage.binary_opening(product)
    lightness = _lightness(finish(clean, look))
    inside, outside = (_blurred(lightness, mask) for mask in (product, ~product))
    row, column = np.nonzero(edge)
    if len(row) < 20:
        return None
    over = _mean_over(clean, product, look)
    faint = np.abs(inside - outside)[row, column] < LOST
    if not faint.any():
        return Outline(0.0, "", over)
    middle = row.mean(), column.mean()
    down, right = np.median(row[faint]) - middle[0], np.median(column[faint]) - middle[1]
    if abs(down) > abs(right):
        return Outline(float(faint.mean()), "bottom" if down > 0 else "top", over)
    return Outline(float(faint.mean()), "right" if right > 0 else "left", over)


def metered_exposure(clean: Clean, look: Finish) -> float | None:
    """EV at which the product comes out in middle grey: the logarithmic mean of its light, as for the key of a scene
    (E. Reinhard et al., "Photographic Tone Reproduction", 2002, equation 1); of the whole picture where no backdrop is
    told apart. None where nothing is lit."""
    light = clean.color @ LUMINANCE
    seen = light > UNLIT if clean.backdrop is None else _product(clean, look) & (light > UNLIT)
    return exposure_for(float(np.exp(np.log(light[seen]).mean())), GREY) if seen.any() else None


def _product(clean: Clean, look: Finish) -> NDArray[np.bool_]:
    """Where the product is, by its light: a floor shows the backdrop and a little light besides, of what it mirrors and
    what grain the denoiser left."""
    assert clean.backdrop is not None
    light = clean.color @ LUMINANCE * exposure_scale(look.exposure)
    return np.asarray(light > np.maximum(1e-3, OWN_LIGHT * (clean.backdrop @ LUMINANCE)))


def _mean_over(clean: Clean, product: NDArray[np.bool_], look: Finish) -> float:
    assert clean.backdrop is not None
    light = float((clean.color[product] @ LUMINANCE).mean()) * exposure_scale(look.exposure)
    behind = float((clean.backdrop[~product] @ LUMINANCE).mean())
    return float(np.log2(max(light, 1e-6) / max(behind, 1e-6)))


def _lightness(shown: Bytes) -> Image:
    """L* of CIE 15:2004 for 8-bit sRGB, D65 white."""
    value = shown / np.float32(255)
    linear = np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)
    y = linear @ LUMINANCE
    return np.asarray(np.where(y > 0.008856, 116 * np.cbrt(y) - 16, 903.3 * y), np.float32)


def _blurred(image: Image, mask: NDArray[np.bool_]) -> Image:
    """Means of an image near each pixel over a mask alone."""
    weight = scipy.ndimage.gaussian_filter(mask.astype(np.float32), BESIDE)
    found = scipy.ndimage.gaussian_filter(np.where(mask, image, 0.0).astype(np.float32), BESIDE)
    return np.asarray(found / np.maximum(weight, 1e-6), np.float32)
