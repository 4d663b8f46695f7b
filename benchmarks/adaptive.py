"""Whether samples should go where the grain is: what the best possible split over tiles would save, uniform being 1.

A tile of area A with error variance V and cost c for each pixel sample gets samples by sqrt(V / c) at best; then the
CPU time to a given error is (sum A sqrt(V c))² / (sum A V · sum A c) of the uniform one. That knows V and c beforehand,
which no real scheme does; the tracer would use it only where it saves a fifth.
"""

from __future__ import annotations

import time

import numpy as np

from benchmarks.scenes import frozen
from usual_lamp.core.trace.plan import tiles
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

SIZE, SAMPLES = (640, 480), 16


def main() -> None:
    print(f"least CPU time of any split over tiles, uniform = 1, {SIZE[0]}x{SIZE[1]} (worth it from 0.8 down)")
    for scene in frozen(SIZE):
        world, found = World(scene.inputs, scene.mesh_of), []
        for edge in (128, 64):
            area, variance, cost = [], [], []
            trace_block(world, tiles(*SIZE, edge)[0], 0, SAMPLES)
            for tile in tiles(*SIZE, edge):
                began = time.process_time()
                a, b = (trace_block(world, tile, 0, SAMPLES, seed)[..., :3] / SAMPLES for seed in (1, 2))
                area.append(tile.width * tile.height)
                cost.append((time.process_time() - began) / area[-1])
                variance.append(((a - b) ** 2).mean() / 2)
            a, v, c = (np.array(numbers) for numbers in (area, variance, cost))
            found.append((a * np.sqrt(v * c)).sum() ** 2 / ((a * v).sum() * (a * c).sum()))
        print(f"  {scene.name:<11} tiles of 128: {found[0]:.2f}   of 64: {found[1]:.2f}", flush=True)


if __name__ == "__main__":
    main()
