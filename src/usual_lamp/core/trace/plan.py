"""How a still is cut into work. No tracer is needed to plan, so this imports none.

The unit of work is a tile times a range of samples. Samples are indexed by (pixel, sample), so the sum over
units is the same picture however the work is cut.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

CHANNELS = 12
"""Per pixel: colour (cd/m², linear Rec. 709), albedo, normal (world), and of the colour what is the backdrop's; three
each."""
TILE = 256


@dataclass(frozen=True)
class Tile:
    """A rectangle of a picture, in pixels from the top left."""

    x: int
    y: int
    width: int
    height: int


@dataclass(frozen=True)
class Region:
    """Part of the picture, as shares 0..1 of its width and height."""

    left: float
    top: float
    right: float
    bottom: float

    def tile(self, width: int, height: int) -> Tile:
        """Whole pixels, at least 8 each way. Raises ValueError for a region outside the picture."""
        if not (0 <= self.left < self.right <= 1 and 0 <= self.top < self.bottom <= 1):
            raise ValueError("The region must lie inside the picture.")
        x, y = int(self.left * width), int(self.top * height)
        w, h = max(8, round((self.right - self.left) * width)), max(8, round((self.bottom - self.top) * height))
        return Tile(min(x, width - w), min(y, height - h), w, h)


WHOLE = Region(0.0, 0.0, 1.0, 1.0)


def tiles(width: int, height: int, size: int = TILE) -> list[Tile]:
    """Tiles that cover a picture, middle first, so that a growing picture shows the product early."""
    found = [
        Tile(x, y, min(size, width - x), min(size, height - y))
        for y in range(0, height, size)
        for x in range(0, width, size)
    ]
    middle = np.array([width, height]) / 2
    return sorted(found, key=lambda t: float(np.linalg.norm([t.x + t.width / 2, t.y + t.height / 2] - middle)))


BATCH = 8
"""Samples of a tile's pixels that are traced at once: more would take room and save no time."""


def pass_after(done: int, samples: int, size: int = BATCH) -> tuple[int, int] | None:
    """The range [start, stop) of samples to trace where so many are done, at most `size` of them (a power of two); None
    when all are. Small ones come first, for a picture early; each power of two ends one, where the grain is read."""
    if done >= samples:
        return None
    step = min(1 << max(done, 2).bit_length() - 1, size)
    return done, min(done - done % step + step, samples)


def batch_after(done: int, stop: int) -> int:
    """Samples after the next batch of a tile that has `done` and is to have `stop`. Batches end at the same samples
    however the work is cut into passes, so that sums are added up in the same order."""
    return min(stop, 2 if done < 2 else done - done % BATCH + BATCH)


def passes(samples: int, size: int = BATCH) -> Iterator[tuple[int, int]]:
    """All of them, from the first."""
    span = pass_after(0, samples, size)
    while span is not None:
        yield span
        span = pass_after(span[1], samples, size)


@dataclass(frozen=True)
class WorkUnit:
    """One unit of work: a tile times a range of samples."""

    tile: Tile
    start: int
    stop: int

    @property
    def pixel_samples(self) -> int:
        """Return the number of samples in the unit, over all pixels."""
        return self.tile.width * self.tile.height * (self.stop - self.start)


def units(width: int, height: int, samples: int) -> Iterator[WorkUnit]:
    """All units of a still, pass by pass, so that the whole picture gets finer together."""
    for start, stop in passes(samples):
        for tile in tiles(width, height):
            yield WorkUnit(tile, start, stop)
