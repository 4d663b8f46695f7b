"""A picture as tiles of sums: put together where, and only where, it is looked at."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.develop import Layers, shrunk
from usual_lamp.core.trace.plan import CHANNELS, TILE, Tile, tiles

Means = NDArray[np.float32]
Sums = NDArray[np.float32]
SKETCHED, LARGEST_SKETCH = 900, 1920
"""Pixels of width from which on a picture that is not finished is shown smaller, and how large at most."""
COARSEST = 16
"""Pixels on a side of what is one pixel of a sketch that is only measured."""


def sketch_step(width: int, height: int) -> int:
    """Pixels on a side of what is one pixel of a quick look: a power of two, so that no tile has a part of one."""
    step = 1 if width <= SKETCHED else 2
    while max(width, height) > LARGEST_SKETCH * step:
        step *= 2
    return step


class ScratchTiles:
    """Sums of tiles by number, which grow: in memory, and from so many bytes on in a folder."""

    def __init__(self, folder: Path, most: int = 256 * 2**20) -> None:
        self.folder, self.room = folder, most
        self._held: dict[int, Sums] = {}

    def add(self, number: int, sums: Sums) -> None:
        """To what there is of a tile. Raises OSError."""
        path = self.folder / f"{number}.npy"
        if number in self._held:
            self._held[number] += sums
        elif path.exists():
            np.save(path, np.load(path) + sums)
        elif sums.nbytes <= self.room:
            self._held[number], self.room = np.array(sums), self.room - sums.nbytes
        else:
            np.save(path, sums)

    def __getitem__(self, number: int) -> Sums:
        held = self._held.get(number)
        return np.load(self.folder / f"{number}.npy") if held is None else held


class TiledPicture:
    """A picture of which `means_of` gives the means of a tile by number, (height, width, CHANNELS)."""

    def __init__(self, width: int, height: int, means_of: Callable[[int], Means]) -> None:
        self.size, self.means_of = (width, height), means_of
        self.cut = tiles(width, height)
        self._number = {(tile.x // TILE, tile.y // TILE): number for number, tile in enumerate(self.cut)}

    def layers(self, area: Area) -> Layers:
        """Its layers in an area."""
        means = np.empty((*area.size[::-1], CHANNELS), np.float32)
        for row in range(area.top // TILE, -(-area.bottom // TILE)):
            for column in range(area.left // TILE, -(-area.right // TILE)):
                number = self._number[column, row]
                there, here = _overlap(self.cut[number], area)
                means[here] = self.means_of(number)[there]
        return Layers.from_sums(means, 1)

    def sketch(self, step: int = COARSEST) -> Layers:
        """All of it, at a part of its size. Every tile is read."""
        width, height = self.size
        means = np.zeros((height // step, width // step, CHANNELS), np.float32)
        for number, tile in enumerate(self.cut):
            put_small(means, tile, shrunk(self.means_of(number), step), step)
        return Layers.from_sums(means, 1)


def put_small(whole: Means, tile: Tile, small: Means, step: int) -> None:
    """Put a tile, made smaller, where it belongs in the picture made smaller."""
    y, x = tile.y // step, tile.x // step
    whole[y : y + small.shape[0], x : x + small.shape[1]] = small


def _overlap(tile: Tile, area: Area) -> tuple[tuple[slice, slice], tuple[slice, slice]]:
    """The pixels that they share: as rows and columns of the tile, and of the area."""
    left, top = max(tile.x, area.left), max(tile.y, area.top)
    right, bottom = min(tile.x + tile.width, area.right), min(tile.y + tile.height, area.bottom)
    there = slice(top - tile.y, bottom - tile.y), slice(left - tile.x, right - tile.x)
    return there, (slice(top - area.top, bottom - area.top), slice(left - area.left, right - area.left))
