"""A still from start to finish in this process: what the command line does, and the farm in pieces."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.trace.tiles import CHANNELS, Tile, passes, tiles, trace_block
from usual_lamp.core.trace.world import World

Quality = Literal["coarse", "fair", "fine"]
SAMPLES: dict[Quality, int] = {"coarse": 16, "fair": 64, "fine": 256}


@dataclass(frozen=True)
class Unit:
    """One unit of work: a tile times a range of samples."""

    tile: Tile
    start: int
    stop: int

    @property
    def pixel_samples(self) -> int:
        return self.tile.width * self.tile.height * (self.stop - self.start)


def units(width: int, height: int, samples: int) -> Iterator[Unit]:
    """All units of a still, pass by pass, so that the whole picture gets finer together."""
    for start, stop in passes(samples):
        for tile in tiles(width, height):
            yield Unit(tile, start, stop)


def trace_still(world: World, samples: int) -> Iterator[tuple[float, NDArray[np.float32]]]:
    """Yields (share done, sums so far) after each unit; the array is the same one, growing."""
    width, height = world.inputs.width, world.inputs.height
    sums = np.zeros((height, width, CHANNELS), np.float32)
    done = 0
    for unit in units(width, height, samples):
        t = unit.tile
        sums[t.y : t.y + t.height, t.x : t.x + t.width] += trace_block(world, t, unit.start, unit.stop)
        done += unit.pixel_samples
        yield done / (width * height * samples), sums
