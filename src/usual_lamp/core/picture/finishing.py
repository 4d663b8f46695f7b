"""Light without grain to a finished picture: exposure, white balance, grading, tone curve, and what a lens adds.

The backdrop, and the floor that stands for it, are colours of the picture: they are laid beneath what exposure, white
balance, contrast, saturation and tone curve make of the light, as bright as they are shaded. So white is white in every
picture. Glare, vignette and sharpening are of the whole.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import Finish
from usual_lamp.core.light.surroundings import LUMINANCE
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.lens_effects import BEYOND, Halos, falloff, sharpened, with_glare
from usual_lamp.core.picture.tone import Image, srgb_encode, tone_map

Kind = TypeVar("Kind", np.uint8, np.uint16)
Ground = tuple[float, float, float]
"""The linear colour of a plain backdrop."""
GREY = 0.18
"""Of recorded white: contrast turns about it."""
BAND = 20000
"""Pixels that are finished together."""
AT_ONCE = 2_000_000
"""Pixels that are read together."""
FAINT = 8 / 255
"""Of encoded white: what is brighter than a white ground by less is not all light, see `_glints`."""


@dataclass(frozen=True)
class Clean:
    """A picture without grain, or some rows of one; (H, W, 3) each."""

    color: Image
    """cd/m², linear Rec. 709, without the backdrop."""
    backdrop: Image | None
    """As it is shown, linear 0..1: in its colour, and darker where it is shaded or covered."""
    bare: NDArray[np.bool_] | None = None
    """(H, W): pixels of which no part, clear ones among them, covers anything; None where that is not known."""

    @property
    def size(self) -> tuple[int, int]:
        """Width and height, px."""
        height, width = self.color.shape[:2]
        return width, height

    def rows(self, first: int, last: int) -> Clean:
        """Rows [first, last) of it."""
        return self.part(slice(first, last), slice(None))

    def part(self, rows: slice, columns: slice) -> Clean:
        """Those rows and columns of it."""
        return Clean(
            self.color[rows, columns],
            None if self.backdrop is None else self.backdrop[rows, columns],
            None if self.bare is None else self.bare[rows, columns],
        )


class Light(Protocol):
    """Light without grain that is read some rows at a time: a `Clean` picture, or a file of one."""

    @property
    def size(self) -> tuple[int, int]:
        """Width and height, px."""

    def rows(self, first: int, last: int) -> Clean:
        """Rows [first, last) of it."""


def spans(size: tuple[int, int]) -> Iterator[tuple[int, int]]:
    """Rows [first, last) of a picture of that width and height that are read together, from the top."""
    width, height = size
    step = max(1, AT_ONCE // width)
    return ((first, min(first + step, height)) for first in range(0, height, step))


def finish(clean: Clean, look: Finish) -> NDArray[np.uint8]:
    """(H, W, 3) sRGB bytes."""
    return encoded(clean, look, np.uint8)


def finish_on_nothing(clean: Clean, look: Finish, ground: Ground) -> NDArray[np.uint8]:
    """(H, W, 4) sRGB bytes with straight alpha, see `encoded_rows`."""
    return encoded(clean, look, np.uint8, ground)


def encoded(light: Light, look: Finish, kind: type[Kind], ground: Ground | None = None) -> NDArray[Kind]:
    """(H, W, 3) encoded in sRGB, with 8 or 16 bits a channel; (H, W, 4) on nothing, see `encoded_rows`."""
    width, height = light.size
    pixels = np.empty((height, width, 3 if ground is None else 4), kind)
    first = 0
    for rows in encoded_rows(light, look, kind, ground):
        pixels[first : first + len(rows)] = rows
        first += len(rows)
    return pixels


def encoded_rows(light: Light, look: Finish, kind: type[Kind], ground: Ground | None = None) -> Iterator[NDArray[Kind]]:
    """The same from the top, some rows at a time: a large picture takes no more room than a small one.

    With `ground`, the linear colour of a plain backdrop that is to be left out, the pixels have straight alpha.
    """
    width, height = light.size
    halos = halos_of(light) if look.glare else None
    most = np.float32(np.iinfo(kind).max)
    for first, last in spans(light.size):
        # Sharpening looks a few rows further.
        above, below = (min(BEYOND, rest) if look.sharpening else 0 for rest in (first, height - last))
        band = light.rows(first - above, last + below)
        if ground is not None and band.backdrop is not None:
            band = replace(band, backdrop=np.minimum(band.backdrop, np.asarray(ground, np.float32)))
        values = _shown(band, look, Area(0, first - above, width, last + below), light.size, halos)
        if look.sharpening:
            values = sharpened(values, look.sharpening)[above : above + last - first]
        if ground is not None:
            values = _on_nothing(values, band.rows(above, above + last - first), ground)
        yield np.round(values * most).astype(kind)


def encoded_area(light: Light, look: Finish, area: Area, halos: Halos | None) -> NDArray[np.uint8]:
    """An area of the finished picture, (n, m, 3) sRGB bytes; `halos` are those of the whole, where it has glare."""
    around = area.grown(BEYOND if look.sharpening else 0, light.size)
    band = light.rows(around.top, around.bottom).part(slice(None), slice(around.left, around.right))
    values = _shown(band, look, around, light.size, halos)
    if look.sharpening:
        values = sharpened(values, look.sharpening)
    top, left = area.top - around.top, area.left - around.left
    values = values[top : top + area.bottom - area.top, left : left + area.right - area.left]
    return np.round(values * np.float32(255)).astype(np.uint8)


def _shown(band: Clean, look: Finish, area: Area, size: tuple[int, int], halos: Halos | None) -> Image:
    """An area of a picture of that width and height as encoded values 0..1, (n, m, 3)."""
    width, count = band.size
    matrix = look.matrix().T.astype(np.float32)
    values = np.empty((count, width, 3), np.float32)
    # Band by band, which stays in the processor's cache: a third of the time of the whole at once.
    step = max(1, BAND // max(1, width))
    for start in range(0, count, step):
        part = band.rows(start, start + step)
        color = np.maximum(part.color, 0.0)
        here = area._replace(top=area.top + start, bottom=area.top + start + len(color))
        if halos is not None:
            color = with_glare(color, look.glare, halos.within(here))
        exposed, backdrop = graded(np.maximum(color @ matrix, 0.0), look), part.backdrop
        if look.vignette:
            left = falloff(size, look.vignette, here)
            exposed, backdrop = exposed * left, None if backdrop is None else backdrop * left
        shown = tone_map(exposed, look.tone)
        values[start : start + step] = srgb_encode(shown if backdrop is None else shown + backdrop)
    return values


def halos_of(light: Light) -> Halos:
    """What glare makes of the light: all of it is read once."""
    halos = Halos(*light.size)
    for first, last in spans(light.size):
        halos.add(first, np.maximum(light.rows(first, last).color, 0.0))
    return halos


def graded(color: Image, look: Finish) -> Image:
    """Contrast about middle grey, channel by channel, and saturation about the luminance; picture values, not
    negative."""
    if look.contrast != 1.0:
        color = np.float32(GREY) * (color / np.float32(GREY)) ** np.float32(look.contrast)
    if look.saturation != 1.0:
        grey = (color @ LUMINANCE.astype(np.float32))[..., None]
        color = np.maximum(grey + (color - grey) * np.float32(look.saturation), 0.0)
    return np.asarray(color, np.float32)


def _glints(above: Image, below: Image) -> Image:
    """What of encoded values above those of the ground is light, and not what is left of the grain.

    Over bright ground, nothing but much white makes a pixel one step brighter: over a dark slide, what no one saw would
    be blotches then.
    """
    faint = np.float32(FAINT) * below**2
    share = np.clip((above - 0.25 * faint) / np.maximum(0.75 * faint, 1e-6), 0.0, 1.0)
    return np.asarray(above * share * share * (3 - 2 * share), np.float32)


def _on_nothing(solid: Image, clean: Clean, ground: Ground) -> Image:
    """Encoded values without their backdrop, (H, W, 4), with straight alpha.

    Programs compose encoded values, so alpha is what makes shadow, reflection and glass come out right over `ground`
    itself; over other colours they are as near as one alpha for three channels can be.
    """
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
    return np.asarray(np.concatenate([color, alpha[..., None]], axis=2), np.float32)
