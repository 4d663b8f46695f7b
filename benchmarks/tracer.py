"""Our tracer against the best stock configuration of Mitsuba: CPU time a sample on the three frozen scenes, and on the
demo the error for the same time, each engine compared with its own reference.

Stock: `path` with next-event estimation and MIS, `principled` surfaces, box filter, the multijitter sampler in one
pass, the same meshes, map, lights and camera (`stock`). They take turns, so that a machine that slows down slows both.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from benchmarks.scenes import CACHE, frozen
from benchmarks.stock import Stock
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

SIZE = (320, 240)
SAMPLES, REFERENCE, RUNS = 64, 2048, 7
WHOLE = Tile(0, 0, *SIZE)
Image = NDArray[np.float32]
Engine = Callable[[int], tuple[float, Image]]
"""Seed to CPU seconds and a picture."""


def error(picture: Image, reference: Image) -> float:
    """Relative mean squared error, the brightest 0.1 percent of pixels left out (fireflies of either engine)."""
    squares = ((picture - reference) ** 2 / (reference**2 + (0.02 * reference.mean()) ** 2)).mean(axis=2).ravel()
    return float(np.sort(squares)[: int(len(squares) * 0.999)].mean())


def reference(name: str, run: Engine) -> Image:
    """The mean of many passes with different seeds, computed once and kept."""
    file = CACHE / f"{name}-{ENGINE_VERSION}-{SIZE[0]}x{SIZE[1]}-{REFERENCE}.npy"
    if not file.exists():
        total = sum(np.asarray(run(1000 + k)[1], np.float64) for k in range(REFERENCE // SAMPLES))
        np.save(file, (total / (REFERENCE // SAMPLES)).astype(np.float32))
    return np.load(file)  # type: ignore[no-any-return]


def main() -> None:
    print(f"{SIZE[0]}x{SIZE[1]}, {SAMPLES} samples, median of {RUNS}")
    for scene in frozen(SIZE):
        world, stock = World(scene.inputs, scene.mesh_of), Stock(scene.name, SIZE)

        def ours(seed: int, world: World = world) -> tuple[float, Image]:
            began = time.process_time()
            picture = trace_block(world, WHOLE, 0, SAMPLES, seed)[..., :3] / SAMPLES
            return time.process_time() - began, picture

        def theirs(seed: int, stock: Stock = stock) -> tuple[float, Image]:
            return stock.run(SAMPLES, seed)

        engines = ours, theirs
        pictures = [engine(0)[1] for engine in engines]
        spent = [[engine(seed)[0] for engine in engines] for seed in range(1, RUNS + 1)]
        a, b = (statistics.median(times) for times in zip(*spent, strict=True))
        ratio = statistics.median(x / y for x, y in spent)
        print(f"  {scene.name:<11} CPU s  ours {a:.2f}   stock {b:.2f}   ratio {ratio:.2f} (at most 0.9)", flush=True)
        if scene.name == "demo":
            wrong = [
                error(picture, reference(name, engine))
                for picture, name, engine in zip(pictures, ("ours", "stock"), engines, strict=True)
            ]
            print(f"              relMSE ours {wrong[0]:.5f}   stock {wrong[1]:.5f}")
            print(
                f"              1 / (error x CPU s), ours over stock: {wrong[1] * b / (wrong[0] * a):.2f} (at least 1)"
            )
        stock.end()


if __name__ == "__main__":
    main()
