"""Time per sample by the number of appearances: the table must not be what costs.

1, 10 and 100 of one kind on 1,000 parts; and 90 of the shelf, of all families, on 2,000 parts against one grey.
"""

from __future__ import annotations

import statistics
import time

from benchmarks.scenes import Frozen, different_appearances, tray
from usual_lamp.core.appearance import NEUTRAL, SHELF
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

SIZE = (320, 240)
SAMPLES, RUNS = 8, 5
WIDE = (50, 40)


def seconds(scene: Frozen) -> float:
    """Median CPU seconds of a block."""
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
    found = {count: seconds(tray(SIZE, count)) for count in (1, 10, 100)}
    print(f"appearances on 1,000 parts, CPU s for {SAMPLES} samples at {SIZE[0]}x{SIZE[1]}")
    print("  " + "   ".join(f"{count}: {value:.2f}" for count, value in found.items()), end="   ")
    print(f"most over least {max(found.values()) / min(found.values()):.2f} (at most 1.5)")
    plain = [a for a in SHELF.values() if not a.textures]
    opaque = [a for a in plain if a.params.transmission_weight == 0 and a.params.subsurface_weight == 0][:90]
    opaque += different_appearances(90 - len(opaque))
    grey = seconds(tray(SIZE, [NEUTRAL], WIDE))
    for words, worn in ((f"{len(opaque)} opaque ones", opaque), ("90 of all families", list(SHELF.values())[::2][:90])):
        many = seconds(tray(SIZE, worn, WIDE))
        print(f"  2,000 parts: one grey {grey:.2f}, {words} {many:.2f}, ratio {many / grey:.2f} (at most 1.5)")


if __name__ == "__main__":
    main()
