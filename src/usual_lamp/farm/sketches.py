"""Quick looks at a still that is being traced: a process that traces holds the tiles made smaller that it has seen, so
that only those of others need be sent to it."""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np

from usual_lamp.core.camera import Finish
from usual_lamp.core.picture import Layers, develop, to_jpeg
from usual_lamp.core.trace.plan import CHANNELS, tiles
from usual_lamp.core.trace.tiled import Means, put_small
from usual_lamp.farm.workshop import workshop


class Sketch:
    """A still's means so far, at a part of its size."""

    def __init__(self, still_id: str, width: int, height: int, step: int) -> None:
        """`step` is the pixels on a side of what is one pixel of it."""
        self.still_id, self.step, self.cut = still_id, step, tiles(width, height)
        self.means = np.zeros((height // step, width // step, CHANNELS), np.float32)
        self.samples = [0] * len(self.cut)
        """By number of the tile."""

    def put(self, number: int, small: Means, samples: int) -> None:
        """A tile, made smaller, of so many samples."""
        put_small(self.means, self.cut[number], small, self.step)
        self.samples[number] = samples

    def get(self, number: int) -> Means:
        """A tile, made smaller."""
        tile, step = self.cut[number], self.step
        y, x = tile.y // step, tile.x // step
        return self.means[y : y + tile.height // step, x : x + tile.width // step]

    def layers(self) -> Layers:
        """All of it."""
        return Layers.from_sums(self.means, 1)


@dataclass(frozen=True)
class PreviewOrder:
    """A quick look that is asked for."""

    still_id: str
    width: int
    height: int
    step: int
    samples: list[int]
    """By number of the tile, as many as are to be seen at least."""
    patches: dict[int, Means]
    """Tiles made smaller, by number, for a process that has not seen them."""
    look: Finish


@dataclass(frozen=True)
class Preview:
    """A quick look, or what is lacking for it."""

    jpeg: bytes
    lacking: list[int]
    """Numbers of tiles that have to be sent; nothing is made then."""
    seconds: float = 0.0


def sketch_of(still_id: str, width: int, height: int, step: int) -> Sketch:
    """The sketch of a still that this process holds: one at a time."""
    held = workshop.sketch
    if not isinstance(held, Sketch) or (held.still_id, held.step) != (still_id, step):
        workshop.sketch = held = Sketch(still_id, width, height, step)
    return held


def preview_unit(order: PreviewOrder) -> Preview:
    """A quick look at a still as far as it is traced."""
    with workshop.lock:
        began = time.monotonic()
        sketch = sketch_of(order.still_id, order.width, order.height, order.step)
        for number, small in order.patches.items():
            if sketch.samples[number] < order.samples[number]:
                sketch.put(number, small, order.samples[number])
        # A tile may have come further meanwhile: that is as good to look at.
        lacking = [number for number, samples in enumerate(order.samples) if sketch.samples[number] < samples]
        if lacking:
            return Preview(b"", lacking)
        return Preview(to_jpeg(develop(sketch.layers(), order.look, "fast")), [], time.monotonic() - began)
