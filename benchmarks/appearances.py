"""Time per sample with 1, 10 and 100 different appearances on 1,000 parts: the table must not be what costs."""

from __future__ import annotations

import statistics
import time

from benchmarks.scenes import tray
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.tiles import trace_block
from usual_lamp.core.trace.world import World

SIZE = (320, 240)
SAMPLES, RUNS = 8, 5


def seconds(different: int) -> float:
    """Median CPU seconds of a block."""
    scene = tray(SIZE, different)
    world = World(scene.inputs, scene.mesh_of)
    block = lambda seed: trace_block(world, Tile(0, 0, *SIZE), 0, SAMPLES, seed)  # noqa: E731
    block(0)
    spent = []
    for seed in range(1, RUNS + 1):
        began = time.process_time()
        block(seed)
        spent.append(time.process_time() - began)
    return statistics.median(spent)


def main() -> None:
    found = {count: seconds(count) for count in (1, 10, 100)}
    print(f"appearances on 1,000 parts, CPU s for {SAMPLES} samples at {SIZE[0]}x{SIZE[1]}")
    print("  " + "   ".join(f"{count}: {value:.2f}" for count, value in found.items()), end="   ")
    print(f"most over least {max(found.values()) / min(found.values()):.2f} (at most 1.5)")


if __name__ == "__main__":
    main()
