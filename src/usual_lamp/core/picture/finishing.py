"""Light without grain to a finished picture: exposure, white balance, grading, tone curve, and what a lens adds.

The backdrop, and the floor that stands for it, are colours of the picture: they are laid beneath what exposure, white
balance, contrast, saturation and tone curve make of the light, as bright as they are shaded. So white is white in every
picture. Glare, vignette and sharpening are of the whole.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np
import scipy
from numpy.typing import NDArray

from usual_lamp.core.camera import Finish
from usual_lamp.core.light.surroundings import LUMINANCE
from usual_lamp.core.picture.tone import Image, srgb_encode, tone_map

Kind = TypeVar("Kind", np.uint8, np.uint16)
GREY = 0.18
"""Of recorded white: contrast turns about it."""
BAND = 20000
"""Pixels that are finished together."""
HALOS = ((0.006, 0.5), (0.03, 0.3), (0.12, 0.2))
"""Of glare: the spread of each halo as a share of the picture's width, and its share of the light."""
FAINT = 8 / 255
"""Of encoded white: what is brighter than a white ground by less is not all light, see `_glints`."""
COARSE = 4.0
"""Pixels of spread that a halo keeps when it is worked out on a smaller picture."""
SHARPENED = 0.9
"""Pixels: the blur from which sharpening takes the difference."""


@dataclass(frozen=True)
class Clean:
    """A picture without grain, (H, W, 3) each."""

    color: Image
    """cd/m², linear Rec. 709, without the backdrop."""
    backdrop: Image | None
    """As it is shown, linear 0..1: in its colour, and darker where it is shaded or covered."""
    bare: NDArray[np.bool_] | None = None
    """(H, W): pixels of which no part, clear ones among them, covers anything; None where that is not known."""


def finish(clean: Clean, look: Finish) -> NDArray[np.uint8]:
    """(H, W, 3) sRGB bytes."""
    return encoded(clean, look, np.uint8)


def encoded(clean: Clean, look: Finish, kind: type[Kind]) -> NDArray[Kind]:
    """(H, W, 3) encoded in sRGB, with 8 or 16 bits a channel."""
    color = np.maximum(clean.color, 0.0)
    if look.glare:
        color = with_glare(color, look.glare)
    height, width = color.shape[:2]
    light = falloff(height, width, look.vignette) if look.vignette else None
    matrix = look.matrix().T.astype(np.float32)
    most = np.iinfo(kind).max
    pixels = np.empty(color.shape, kind)
    soft = np.empty(color.shape, np.float32) if look.sharpening else None
    # Band by band, which stays in the processor's cache: a third of the time of the whole at once.
    rows = max(1, BAND // max(1, width))
    for first in range(0, height, rows):
        band = slice(first, first + rows)
        exposed = graded(np.maximum(color[band] @ matrix, 0.0), look)
        if light is not None:
            exposed = exposed * light[band]
        shown = tone_map(exposed, look.tone)
        if clean.backdrop is not None:
            shown = shown + (clean.backdrop[band] if light is None else clean.backdrop[band] * light[band])
        values = srgb_encode(shown)
        if soft is None:
            pixels[band] = np.round(values * most)
        else:
            soft[band] = values
    if soft is not None:
        pixels[:] = np.round(sharpened(soft, look.sharpening) * most)
    return pixels


def graded(color: Image, look: Finish) -> Image:
    """Contrast about middle grey, channel by channel, and saturation about the luminance; picture values, not
    negative."""
    if look.contrast != 1.0:
        color = np.float32(GREY) * (color / np.float32(GREY)) ** np.float32(look.contrast)
    if look.saturation != 1.0:
        grey = (color @ LUMINANCE.astype(np.float32))[..., None]
        color = np.maximum(grey + (color - grey) * np.float32(look.saturation), 0.0)
    return np.asarray(color, np.float32)


def falloff(height: int, width: int, stops: float) -> Image:
    """(H, W, 1): what a vignette leaves of the light. As cos⁴ of a field angle, which is that many stops (EV) at the
    corners: natural falloff of a lens (any handbook of optics)."""
    y, x = ((np.arange(size) + 0.5) / size * 2 - 1 for size in (height, width))
    square = (y[:, None] * height) ** 2 + (x[None, :] * width) ** 2
    tangent = (2.0 ** (stops / 2) - 1) * square / (height**2 + width**2)
    return np.asarray((1 + tangent) ** -2.0, np.float32)[..., None]


def with_glare(color: Image, share: float) -> Image:
    """Part of the light spread over halos round where it fell, as in the glass of a lens; its sum stays."""
    spread = np.zeros_like(color)
    for size, part in HALOS:
        spread += np.float32(part) * _blurred(color, size * color.shape[1])
    return np.asarray(color + np.float32(share) * (spread - color), np.float32)


def _blurred(image: Image, sigma: float) -> Image:
    """A Gaussian blur, worked out on a smaller picture where it is wide; mirrored at the border, so the sum stays."""
    step = max(1, int(sigma / COARSE))
    height, width = image.shape[:2]
    if step == 1:
        return _gaussian(image, sigma)
    grown = np.pad(image, ((0, -height % step), (0, -width % step), (0, 0)), mode="symmetric")
    rows, columns = grown.shape[0] // step, grown.shape[1] // step
    small = grown.reshape(rows, step, columns, step, 3).mean(axis=(1, 3), dtype=np.float32)
    wide = scipy.ndimage.zoom(_gaussian(small, sigma / step), (step, step, 1), order=1, grid_mode=True, mode="nearest")
    return np.asarray(wide[:height, :width], np.float32)


def _gaussian(image: Image, sigma: float) -> Image:
    return np.asarray(scipy.ndimage.gaussian_filter(image, (sigma, sigma, 0), mode="reflect", truncate=3.0), np.float32)


def sharpened(values: Image, amount: float) -> Image:
    """Edges made steeper by a share of what a slight blur takes away; encoded values 0..1."""
    detail = values - _gaussian(values, SHARPENED)
    return np.asarray(np.clip(values + np.float32(amount) * detail, 0.0, 1.0), np.float32)


def finish_on_nothing(clean: Clean, look: Finish, ground: tuple[float, float, float]) -> NDArray[np.uint8]:
    """(H, W, 4) sRGB bytes with straight alpha, see `encoded_on_nothing`."""
    return encoded_on_nothing(clean, look, ground, np.uint8)


def _glints(above: Image, below: Image) -> Image:
    """What of encoded values above those of the ground is light, and not what is left of the grain.

    Over bright ground, nothing but much white makes a pixel one step brighter: over a dark slide, what no one saw would
    be blotches then.
    """
    faint = np.float32(FAINT) * below**2
    share = np.clip((above - 0.25 * faint) / np.maximum(0.75 * faint, 1e-6), 0.0, 1.0)
    return np.asarray(above * share * share * (3 - 2 * share), np.float32)


def encoded_on_nothing(
    clean: Clean, look: Finish, ground: tuple[float, float, float], kind: type[Kind]
) -> NDArray[Kind]:
    """The picture without its backdrop, which is plain in the linear colour `ground`: (H, W, 4), with straight alpha.

    Programs compose encoded values, so alpha is what makes shadow, reflection and glass come out right over `ground`
    itself; over other colours they are as near as one alpha for three channels can be.
    """
    most = np.iinfo(kind).max
    if clean.backdrop is not None:
        clean = replace(clean, backdrop=np.minimum(clean.backdrop, np.asarray(ground, np.float32)))
    solid = encoded(clean, look, kind).astype(np.float32) / np.float32(most)
    below = srgb_encode(np.asarray(ground, np.float32)[None, None])
    if clean.backdrop is None:
        keeps = np.zeros(solid.shape[:2], np.float32)
    else:
        shown = srgb_encode(np.clip(clean.backdrop, 0.0, np.asarray(ground, np.float32)))
        keeps = (shown.sum(axis=2) / np.maximum(below.sum(), 1e-6)).clip(0.0, 1.0)
    if clean.bare is not None:
        # Only shadow and reflection are there: as little as shows them. Denoising blurs outlines, and what is blurred
        # over them would be specks of the ground's own colour.
        keeps = np.where(clean.bare, np.float32(1.0), keeps)
    # So much at least that no channel of what lies above is negative, or above white.
    darker, brighter = (
        1.0 - solid / np.maximum(below, 1e-6),
        _glints(solid - below, below) / np.maximum(1 - below, 1e-6),
    )
    alpha = np.maximum(1.0 - keeps, np.maximum(darker, brighter).max(axis=2)).clip(0.0, 1.0)
    over = np.clip(solid - below * (1.0 - alpha[..., None]), 0.0, alpha[..., None])
    color = np.where(alpha[..., None] > 0, over / np.maximum(alpha[..., None], 1e-6), 0.0)
    found = np.concatenate([color, alpha[..., None]], axis=2)
    return np.round(found * most).astype(kind)
