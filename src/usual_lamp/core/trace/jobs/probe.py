"""A probe: how fast a picture is traced and how its grain falls, from blocks of its pixels spread over the frame.

It tells what a still will take before it is begun, see `outlook`; and `grain` for how grain is measured and carried on.
"""

from __future__ import annotations

import time
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.trace.group_sums import relit
from usual_lamp.core.trace.jobs.grain import GrainMeter
from usual_lamp.core.trace.jobs.outlook import Probe
from usual_lamp.core.trace.plan import passes
from usual_lamp.core.trace.transport.tiles import trace_groups
from usual_lamp.core.trace.world.world import World

BLOCK, BLOCKS = 4, 1280
"""Pixels a side of a block, and about how many blocks: many small ones hit small bright things as often as they are."""
SAMPLES = 32
UNTIMED, LONGEST = 8, 16
"""Samples before time is taken, as the first pass may compile its kernel, and those of the longest pass. The quickest
pass counts: others may have been held up by what else the machine does."""


def spread_blocks(width: int, height: int, seed: int = 0) -> NDArray[np.uint32]:
    """Numbers of the pixels of about `BLOCKS` blocks, one anywhere in each cell of a grid over the picture."""
    if width * height <= BLOCKS * BLOCK**2:
        return np.arange(width * height, dtype=np.uint32)
    side = min(BLOCK, width, height)
    across = max(1, round((BLOCKS * width / height) ** 0.5))
    down = max(1, round(BLOCKS / across))
    random = np.random.default_rng(seed)
    columns, rows = np.meshgrid(np.arange(across), np.arange(down))
    x = ((columns + random.random(columns.shape)) / across * (width - side)).astype(np.int64)
    y = ((rows + random.random(rows.shape)) / down * (height - side)).astype(np.int64)
    step = np.arange(side)
    pixels = (y[..., None, None] + step[:, None]) * width + x[..., None, None] + step
    return np.unique(pixels).astype(np.uint32)


def probing(world: World, groups: int, samples: int = SAMPLES) -> Iterator[Probe | None]:
    """Trace a probe pass by pass, so that others can be served between; yields None until it ends with the Probe.

    `groups` is how many groups of lights the still will keep apart, see `light_groups`.
    """
    inputs = world.inputs
    pixels = spread_blocks(inputs.width, inputs.height)
    meter, sums = GrainMeter(), np.zeros(0, np.float32)
    rate = np.inf
    for start, stop in passes(samples, LONGEST):
        began = time.perf_counter()
        found = trace_groups(world, pixels, start, stop, groups)
        if start >= UNTIMED:
            rate = min(rate, (time.perf_counter() - began) / (stop - start))
        sums = sums + found if sums.size else found
        meter.read(0, relit(sums[None], inputs.lighting, None)[0, :, :3], stop)
        if stop < samples:
            yield None
    yield Probe(rate / len(pixels), meter.readings)
