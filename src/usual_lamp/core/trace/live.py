"""The traced picture on the desk: it follows its scene, starts again where it must, and gets finer pass by pass.

Two halves are summed apart, even blocks of samples and odd ones. Their difference tells how much grain is left,
measured on the picture itself.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.plan import CHANNELS, WHOLE, Region, Tile
from usual_lamp.core.trace.tiles import trace_block
from usual_lamp.core.trace.world import MeshOf, World

BLOCK = 400_000
"""Pixel samples in one block of work: the longest that an edit has to wait."""
FINEST = 256
"""Samples after which the picture rests."""


class LivePicture:
    """Sums of the present picture, and the world they are traced from."""

    def __init__(self, mesh_of: MeshOf) -> None:
        self.mesh_of = mesh_of
        self.world: World | None = None
        self.inputs: TraceInputs | None = None
        self.area = Tile(0, 0, 0, 0)
        self._restart()

    def follow(self, inputs: TraceInputs, region: Region = WHOLE) -> bool:
        """Show these inputs from now on; whether the picture had to start again."""
        area = region.tile(inputs.width, inputs.height)
        if inputs == self.inputs and area == self.area:
            return False
        if inputs != self.inputs:
            # Until the change is through there is no world to trace with, should it fail half-way.
            world, self.world, self.inputs = self.world, None, None
            if world is None:
                world = World(inputs, self.mesh_of)
            else:
                world.change(inputs)
            self.world, self.inputs = world, inputs
        self.area = area
        self._restart()
        return True

    def _restart(self) -> None:
        shape = (self.area.height, self.area.width, CHANNELS)
        self.halves = [np.zeros(shape, np.float32), np.zeros(shape, np.float32)]
        self.counts = [0, 0]
        self.rows = 0
        """Rows of the pass under way that are traced already."""

    @property
    def samples(self) -> int:
        """Samples of every pixel, of whole passes."""
        return sum(self.counts)

    @property
    def rests(self) -> bool:
        return self.world is None or self.samples >= FINEST

    def step(self) -> bool:
        """Trace one block; whether it completed a pass over the whole area."""
        assert self.world is not None
        start, count = self.samples, self._pass_size()
        rows = min(self.area.height - self.rows, max(1, BLOCK // (count * self.area.width)))
        tile = Tile(self.area.x, self.area.y + self.rows, self.area.width, rows)
        half = self.halves[self._half()]
        half[self.rows : self.rows + rows] += trace_block(self.world, tile, start, start + count)
        self.rows += rows
        if self.rows < self.area.height:
            return False
        self.counts[self._half()] += count
        self.rows = 0
        return True

    def _half(self) -> int:
        return 0 if self.counts[0] <= self.counts[1] else 1

    def _pass_size(self) -> int:
        """Single samples first; later as many as have been traced already in one half, at most 4."""
        return max(1, min(4, self.counts[0] // 2 if self._half() == 0 else self.counts[0] - self.counts[1]))

    def sums(self) -> NDArray[np.float32]:
        """Of the area over all `samples`; to be asked for when a pass is complete."""
        return self.halves[0] + self.halves[1]

    def grain(self) -> float | None:
        """Root mean square error of the picture before denoising, over its mean; None before two passes.

        The halves are independent estimates; half their difference has the variance of their mean.
        """
        if min(self.counts) == 0:
            return None
        a, b = (half[..., :3] / count for half, count in zip(self.halves, self.counts, strict=True))
        mean = float((a + b).mean()) / 2
        return float(np.sqrt(np.mean(np.square(a - b)))) / 2 / mean if mean > 0 else 0.0
