"""The traced picture on the desk: it follows its scene, starts again where it must, and gets finer pass by pass.

How much grain is left is measured on the picture itself, see `grain`.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.scene.light_groups import at_nominal_levels, light_groups
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.group_sums import channels, relit, shares
from usual_lamp.core.trace.jobs.grain import GrainMeter
from usual_lamp.core.trace.jobs.relight import can_relight, floor_ratio, floor_under
from usual_lamp.core.trace.plan import WHOLE, Region, Tile
from usual_lamp.core.trace.transport.tiles import numbers_of, trace_groups
from usual_lamp.core.trace.world.atlas import PictureOf
from usual_lamp.core.trace.world.kept import Kept
from usual_lamp.core.trace.world.world import MappedOf, MeshOf, World

FIRST_BLOCK, BLOCK = 400_000, 80_000
"""Pixel samples in one block of work, of the first pass and later: what an edit has to wait for at most."""
FINEST = 256
"""Samples after which the picture rests."""
LARGEST_PASS = 4


class LivePicture:
    """Sums of the present picture, and the world they are traced from."""

    def __init__(
        self,
        mesh_of: MeshOf,
        picture_of: PictureOf | None = None,
        mapped_of: MappedOf | None = None,
        kept: Kept | None = None,
    ) -> None:
        self.mesh_of, self.picture_of, self.mapped_of, self.kept = mesh_of, picture_of, mapped_of, kept
        self.world: World | None = None
        self.inputs: TraceInputs | None = None
        self.region, self.area = WHOLE, Tile(0, 0, 0, 0)
        self._floor: NDArray[np.float32] | None = None
        """How the floor was lit when it was traced over how it is now, see `relight.floor_ratio`."""
        self._restart()

    def follow(self, inputs: TraceInputs, region: Region = WHOLE) -> bool:
        """Show these inputs from now on; whether the picture had to start again."""
        area = region.tile(inputs.width, inputs.height)
        if inputs == self.inputs and area == self.area:
            return False
        if area == self.area and self._relight(inputs):
            return False
        if self.world is None or inputs != self.world.inputs:
            # Until the change is through there is no world to trace with, should it fail half-way.
            world, self.world, self.inputs = self.world, None, None
            if world is None:
                world = World(
                    inputs, self.mesh_of, picture_of=self.picture_of, mapped_of=self.mapped_of, kept=self.kept
                )
            else:
                world.change(inputs)
            self.world, self.inputs = world, inputs
        self.region, self.area = region, area
        self._restart()
        return True

    def _relight(self, inputs: TraceInputs) -> bool:
        """Follow inputs that differ in the levels of lights alone, with the samples that are there; whether they do."""
        if self.inputs is None or self.world is None or self.groups != light_groups(inputs.lighting).kept:
            return False
        old, new = (i.model_copy(update={"lighting": at_nominal_levels(i.lighting)}) for i in (self.inputs, inputs))
        if old != new or not can_relight(self.world, inputs.lighting):
            return False
        self.inputs = inputs
        now = floor_under(self.world, inputs.lighting)
        self._floor = None if now is None else floor_ratio(self.world, now, self.area)
        self.meter = GrainMeter()
        self.meter.read(0, self.picture()[..., :3], max(1, self.samples))
        return True

    def picture(self) -> NDArray[np.float32]:
        """The sums (H, W, CHANNELS) under the present levels of all lights."""
        assert self.inputs is not None
        return relit(self.sums, self.inputs.lighting, self._floor)

    def shares(self) -> dict[str, float]:
        """Share of each light in the picture's light, see `group_sums.shares`."""
        assert self.inputs is not None
        return shares(self.sums, self.inputs.lighting)

    def _restart(self) -> None:
        self.groups = light_groups(self.inputs.lighting).kept if self.inputs else 2
        self.sums: NDArray[np.float32] = np.zeros(
            (self.area.height, self.area.width, channels(self.groups)), np.float32
        )
        """Over the area, by group of lights; equal everywhere in `samples` only between passes."""
        self._floor = None
        self.samples = 0
        """Samples of every pixel, of whole passes."""
        self.rows = 0
        """Rows of the pass under way that are traced already."""
        self.sketched = False
        """Whether every other pixel of every other row has its first sample."""
        self.meter = GrainMeter()

    def sketch(self) -> NDArray[np.float32]:
        """The first sample of every other pixel of every other row, as a picture of half the area's size.

        A first look in little more than a quarter of the time of a pass, and a part of that pass.
        """
        assert self.world is not None and self.inputs is not None
        if not self.sketched:
            pixels = numbers_of(self.area, self.inputs.width).reshape(self.area.height, self.area.width)[::2, ::2]
            found = trace_groups(self.world, pixels.ravel(), 0, 1, self.groups)
            self.sums[::2, ::2] = found.reshape(*pixels.shape, -1)
            self.sketched = True
        return relit(self.sums[::2, ::2], self.inputs.lighting, None if self._floor is None else self._floor[::2, ::2])

    @property
    def rests(self) -> bool:
        """Whether there is nothing left to trace."""
        return self.world is None or self.samples >= FINEST

    def step(self) -> bool:
        """Trace one block; whether it completed a pass over the whole area."""
        assert self.world is not None and self.inputs is not None
        count = max(1, min(LARGEST_PASS, self.samples))
        limit = BLOCK if self.samples else FIRST_BLOCK
        rows = min(self.area.height - self.rows, max(1, limit // (count * self.area.width)))
        tile = Tile(self.area.x, self.area.y + self.rows, self.area.width, rows)
        missing = np.ones((rows, self.area.width), bool)
        if self.sketched and self.samples == 0:
            missing[self.rows % 2 :: 2, ::2] = False
        pixels = numbers_of(tile, self.inputs.width)[missing.ravel()]
        block = trace_groups(self.world, pixels, self.samples, self.samples + count, self.groups)
        sums = self.sums[self.rows : self.rows + rows]
        if missing.all():
            sums += block.reshape(sums.shape)
        else:
            sums[missing] += block
        self.rows += rows
        if self.rows < self.area.height:
            return False
        self.samples += count
        self.rows = 0
        self.meter.read(0, self.picture()[..., :3], self.samples)
        return True

    def grain(self) -> float | None:
        """Root mean square error of the picture before denoising, over its mean; None before two samples."""
        return self.meter.grain(self.samples)
