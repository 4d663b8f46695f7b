"""A still from start to finish in this process: what the command line does, and the farm in pieces."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.trace.plan import CHANNELS, units
from usual_lamp.core.trace.tiles import trace_block
from usual_lamp.core.trace.world import World


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
