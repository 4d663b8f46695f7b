"""What a lens adds to a picture: glare, vignette, and a slight blur that sharpening takes back."""

from __future__ import annotations

import numpy as np
import scipy

from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.tone import Image

HALOS = ((0.006, 0.5), (0.03, 0.3), (0.12, 0.2))
"""Of glare: the spread of each halo as a share of the picture's width, and its share of the light."""
COARSE = 4.0
"""Pixels of spread that a halo keeps when it is worked out on a smaller picture."""
SHARPENED = 0.9
"""Pixels: the blur from which sharpening takes the difference."""
BEYOND = 4
"""Rows beside those that are sharpened which it looks at."""


class Halos:
    """The light of a picture as spread by glare. All rows are added once, from the top; then any can be read.

    A wide halo is worked out on a smaller picture, mirrored at the border, so the sum of the light stays.
    """

    def __init__(self, width: int, height: int) -> None:
        self.size = width, height
        self._parts = [_Halo(size * width, share, width, height) for size, share in HALOS]

    def add(self, first: int, color: Image) -> None:
        """Rows from `first` on, (n, W, 3), cd/m²."""
        for part in self._parts:
            part.add(first, color)

    def within(self, area: Area) -> Image:
        """The spread light of an area, (n, m, 3)."""
        return np.asarray(sum(part.within(area) for part in self._parts), np.float32)


class _Halo:
    """One of them: a Gaussian of `sigma` pixels."""

    def __init__(self, sigma: float, share: float, width: int, height: int) -> None:
        self.step, self.share, self.sigma = max(1, int(sigma / COARSE)), np.float32(share), sigma
        self.width, self.height = width, height
        shape = -(-height // self.step), -(-width // self.step)
        self._sum, self._blurred = np.zeros((*shape, 3), np.float32), np.zeros((0, 0, 3), np.float32)

    def add(self, first: int, color: Image) -> None:
        """Sum up blocks of pixels."""
        columns = np.add.reduceat(color, np.arange(0, self.width, self.step), axis=1)
        rows = np.arange(first, first + len(color)) // self.step
        starts = np.flatnonzero(np.r_[True, np.diff(rows) > 0])
        self._sum[rows[starts]] += np.add.reduceat(columns, starts, axis=0)

    def within(self, area: Area) -> Image:
        """Its share of the light of an area, between the blocks' middles by straight lines."""
        if not self._blurred.size:
            down, across = (_counts(side, self.step) for side in (self.height, self.width))
            means = self._sum / (down[:, None] * across)[..., None]
            self._blurred = gaussian(means, self.sigma / self.step) * self.share
        upper, lower, part = _between(np.arange(area.top, area.bottom), self.step, len(self._blurred))
        lines = self._blurred[upper] * (1 - part)[:, None, None] + self._blurred[lower] * part[:, None, None]
        left, right, part = _between(np.arange(area.left, area.right), self.step, self._blurred.shape[1])
        return np.asarray(lines[:, left] * (1 - part)[:, None] + lines[:, right] * part[:, None], np.float32)


def _counts(side: int, step: int) -> Image:
    """Pixels in each block along a side."""
    starts = np.arange(0, side, step)
    return np.asarray(np.minimum(starts + step, side) - starts, np.float32)


def _between(pixels: np.ndarray, step: int, blocks: int) -> tuple[np.ndarray, np.ndarray, Image]:
    """The blocks before and after the middles of pixels, and how far from the one to the other."""
    place = np.clip((pixels + 0.5) / step - 0.5, 0, blocks - 1)
    before = np.floor(place).astype(np.int64)
    return before, np.minimum(before + 1, blocks - 1), np.asarray(place - before, np.float32)


def with_glare(color: Image, share: float, spread: Image | None = None) -> Image:
    """Part of the light spread over halos round where it fell, as in the glass of a lens; its sum stays.

    `spread` is what `Halos` have for that area; without, the picture is whole.
    """
    if spread is None:
        halos = Halos(color.shape[1], color.shape[0])
        halos.add(0, color)
        spread = halos.within(Area(0, 0, color.shape[1], len(color)))
    return np.asarray(color + np.float32(share) * (spread - color), np.float32)


def falloff(size: tuple[int, int], stops: float, area: Area | None = None) -> Image:
    """(n, m, 1): what a vignette leaves of the light in an area of a picture of that width and height, or all. As cos⁴
    of a field angle, which is that many stops (EV) at the corners: natural falloff of a lens (any handbook of optics).
    """
    width, height = size
    left, top, right, bottom = area or (0, 0, width, height)
    x, y = ((np.arange(*ends) + 0.5) / side * 2 - 1 for ends, side in (((left, right), width), ((top, bottom), height)))
    square = (y[:, None] * height) ** 2 + (x[None, :] * width) ** 2
    tangent = (2.0 ** (stops / 2) - 1) * square / (height**2 + width**2)
    return np.asarray((1 + tangent) ** -2.0, np.float32)[..., None]


def gaussian(image: Image, sigma: float) -> Image:
    """A Gaussian blur of (H, W, 3), mirrored at the border."""
    return np.asarray(scipy.ndimage.gaussian_filter(image, (sigma, sigma, 0), mode="reflect", truncate=3.0), np.float32)


def sharpened(values: Image, amount: float) -> Image:
    """Edges made steeper by a share of what a slight blur takes away; encoded values 0..1."""
    detail = values - gaussian(values, SHARPENED)
    return np.asarray(np.clip(values + np.float32(amount) * detail, 0.0, 1.0), np.float32)
