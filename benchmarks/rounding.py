"""What rounded edges cost: time of a sample, of building the world, and memory of its tables.

Ratios of CPU time in one run, each in turns, on the demo, on as1-oc-214 and on a tray of 1,000 turned parts.
"""

from __future__ import annotations

import time

import numpy as np

from benchmarks.scenes import frozen
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import numbers_of, trace_pixels
from usual_lamp.core.trace.world.world import World

SIZE = (320, 240)
ROUNDS, SAMPLES = 5, 8


def main() -> None:
    pixels = numbers_of(Tile(0, 0, *SIZE), SIZE[0])
    for scene in frozen(SIZE):
        worlds, built = {}, {}
        for width in (0.0, 0.2):
            inputs = scene.inputs.model_copy(update={"rounding": width})
            began = time.process_time()
            worlds[width] = World(inputs, scene.mesh_of)
            built[width] = time.process_time() - began
            trace_pixels(worlds[width], pixels, 0, SAMPLES)
        times: dict[float, list[float]] = {width: [] for width in worlds}
        for turn in range(1, ROUNDS + 1):
            for width, world in worlds.items():
                began = time.process_time()
                trace_pixels(world, pixels, turn * SAMPLES, (turn + 1) * SAMPLES)
                times[width].append(time.process_time() - began)
        ratio = np.median(times[0.2]) / np.median(times[0.0])
        print(
            f"{scene.name:12} sample {ratio:.3f} of the time without (asked 1.1); "
            f"world {built[0.0]:.2f} s without, {built[0.2]:.2f} s with"
        )
