"""The traced picture on the desk: it follows its scene, starts again where it must, and gets finer pass by pass.

How much grain is left is measured on the picture itself, see `grain`.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.plan import CHANNELS, WHOLE, Region, Tile
from usual_lamp.core.trace.tiles import trace_block
from usual_lamp.core.trace.world import MeshOf, World

FIRST_BLOCK, BLOCK = 400_000, 200_000
"""Pixel samples in one block of work, of the first pass and later: what an edit has to wait for at most."""
FINEST = 256
"""Samples after which the picture rests."""
LARGEST_PASS = 4
USUAL_DECAY, DECAY = 0.4, (0.2, 0.5)
"""Decay of the squared error by doubling, and its bounds: smooth pictures lie low, independent samples at a half."""


class LivePicture:
    """Sums of the present picture, and the world they are traced from."""

    def __init__(self, mesh_of: MeshOf) -> None:
        self.mesh_of = mesh_of
        self.world: World | None = None
        self.inputs: TraceInputs | None = None
        self.region, self.area = WHOLE, Tile(0, 0, 0, 0)
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
        self.region, self.area = region, area
        self._restart()
        return True

    def _restart(self) -> None:
        self.sums: NDArray[np.float32] = np.zeros((self.area.height, self.area.width, CHANNELS), np.float32)
        """Over the area; equal everywhere in `samples` only between passes."""
        self.samples = 0
        """Samples of every pixel, of whole passes."""
        self.rows = 0
        """Rows of the pass under way that are traced already."""
        self.meter = GrainMeter()

    def sketch(self) -> NDArray[np.float32]:
        """One sample a pixel of the area at half its size: a first look in a quarter of the time of a pass."""
        assert self.world is not None and self.inputs is not None
        size = (self.inputs.width // 2, self.inputs.height // 2)
        return trace_block(self.world, self.region.tile(*size), 0, 1, size=size)

    @property
    def rests(self) -> bool:
        return self.world is None or self.samples >= FINEST

    def step(self) -> bool:
        """Trace one block; whether it completed a pass over the whole area."""
        assert self.world is not None
        count = max(1, min(LARGEST_PASS, self.samples))
        limit = BLOCK if self.samples else FIRST_BLOCK
        rows = min(self.area.height - self.rows, max(1, limit // (count * self.area.width)))
        tile = Tile(self.area.x, self.area.y + self.rows, self.area.width, rows)
        block = trace_block(self.world, tile, self.samples, self.samples + count)
        self.sums[self.rows : self.rows + rows] += block
        self.rows += rows
        if self.rows < self.area.height:
            return False
        self.samples += count
        self.rows = 0
        self.meter.read(self.sums[..., :3], self.samples)
        return True

    def grain(self) -> float | None:
        """Root mean square error of the picture before denoising, over its mean; None before two samples."""
        return self.meter.grain(self.samples)


class GrainMeter:
    """Tells the error of a picture from how it changes as its samples double.

    Let M(n) be the mean of the first n samples, n a power of two, and S(n) the root mean square of M(n/2) - M(n).
    In a scrambled Sobol sequence the first and the second half of n samples may be exchanged, so M(n/2) - M(n) has
    no correlation with the error of M(n), and the squares add up: E(n/2)² = S(n)² + E(n)². Hence E(n)² is the sum
    of S² over all further doublings. With the decay r = S(n)² / S(n/2)² going on as it was, E(n)² = S(n)² r / (1 - r);
    for independent samples r is 1/2 and E(n) = S(n).
    """

    def __init__(self) -> None:
        self.last: NDArray[np.float32] | None = None
        self.squares: list[float] = []
        """S² at 2, 4, 8 ... samples, over the square of the mean."""

    def read(self, sums: NDArray[np.float32], samples: int) -> None:
        """To be called after every pass; only powers of two are looked at."""
        if samples & (samples - 1):
            return
        mean = sums / np.float32(samples)
        if self.last is not None:
            level = float(mean.mean())
            change = float(np.mean(np.square(self.last - mean), dtype=np.float64))
            self.squares.append(change / level**2 if level > 0 else 0.0)
        self.last = mean

    def grain(self, samples: int) -> float | None:
        """Relative error after that many samples, which are at least as many as were read."""
        if not self.squares:
            return None
        # Single readings are noisy at few samples: slope and level come from all of them, the slope held by a guess.
        logs = np.log(np.maximum(self.squares, 1e-20))
        slope = (logs[-1] - logs[0] + np.log(USUAL_DECAY)) / len(logs)
        decay = float(np.clip(np.exp(slope), *DECAY))
        level = np.exp(np.mean(logs + np.log(decay) * np.arange(len(logs) - 1, -1, -1)))
        since = np.log2(samples) - len(logs)
        return float(np.sqrt(level * decay / (1 - decay) * decay**since))
