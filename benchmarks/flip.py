"""CPU seconds of tracing to a fixed FLIP, ours against stock Mitsuba, on the three frozen scenes.

Each engine is compared with its own reference of 4,096 samples. Both are denoised the same way, with guides that each
gets as cheaply as it can, and finished with the same tone curve. Stock traces with its bare `path` and takes albedo and
normal from an `aov` integrator of its own with a few samples: wrapped round `path` it doubles what that costs. The FLIP
that is asked for is the one that stock reaches at 64 samples. Building the scene and compiling are in no figure here.
"""

from __future__ import annotations

import time
from collections.abc import Callable

import flip_evaluator
import numpy as np
from numpy.typing import NDArray

from benchmarks.scenes import CACHE, Frozen, frozen
from benchmarks.stock import Stock
from usual_lamp.core.camera import Finish
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.picture import Layers, develop
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

SIZE = (160, 120)
WHOLE = Tile(0, 0, *SIZE)
REFERENCE, PASS = 4096, 64
COUNTS = (4, 8, 16, 32, 64, 128)
SEEDS = (1, 2, 3)
Numbers = NDArray[np.float32]
Engine = Callable[[int, int], tuple[float, Numbers]]
"""Samples and seed to CPU seconds and means (H, W, 9): colour, albedo, normal."""


def engines(scene: Frozen, stock: Stock) -> dict[str, Engine]:
    world = World(scene.inputs, scene.mesh_of)

    def ours(samples: int, seed: int) -> tuple[float, Numbers]:
        began = time.process_time()
        means = trace_block(world, WHOLE, 0, samples, seed) / np.float32(samples)
        return time.process_time() - began, means

    return {"ours": ours, "stock": lambda samples, seed: stock.run(samples, seed, guided=True)}


def reference(scene: str, name: str, engine: Engine) -> Numbers:
    """Colour of 4,096 samples. Kept, and gone on with where an earlier run was ended."""
    file = CACHE / f"flip-{scene}-{name}-{ENGINE_VERSION}-{SIZE[0]}x{SIZE[1]}.npz"
    total, done = np.zeros((SIZE[1], SIZE[0], 3)), 0
    if file.exists():
        kept = np.load(file)
        total, done = kept["total"], int(kept["done"])
    while done < REFERENCE:
        total += engine(PASS, 10_000 + done)[1][..., :3] * PASS
        done += PASS
        if done % (4 * PASS) == 0:
            np.savez(file, total=total, done=done)
    return (total / REFERENCE).astype(np.float32)


def picture(means: Numbers, quality: str) -> Numbers:
    layers = Layers(*(np.ascontiguousarray(means[..., k : k + 3]) for k in (0, 3, 6)))
    return develop(layers, Finish(), quality) / np.float32(255)  # type: ignore[arg-type]


def curve(engine: Engine, asked: Numbers) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """CPU seconds and FLIP by COUNTS, the mean over SEEDS."""
    target = picture(np.concatenate([asked, np.zeros((*asked.shape[:2], 6), np.float32)], axis=2), "none")
    seconds, found = [], []
    for count in COUNTS:
        engine(count, 0)
        spent, flips = [], []
        for seed in SEEDS:
            cpu, means = engine(count, seed)
            spent.append(cpu)
            flips.append(flip_evaluator.evaluate(target, picture(means, "high"), "LDR")[1])
        seconds.append(np.median(spent))
        found.append(np.mean(flips))
    return np.array(seconds), np.array(found)


def time_to(flip: float, seconds: NDArray[np.float64], flips: NDArray[np.float64]) -> float:
    """CPU seconds until that FLIP, between counts along straight lines of logarithms; the first count at least."""
    falling = np.minimum.accumulate(flips)
    return float(np.exp(np.interp(-np.log(flip), -np.log(falling), np.log(seconds))))


def main() -> None:
    print(f"CPU seconds to the FLIP that stock has at 64 samples, {SIZE[0]}x{SIZE[1]}, denoised alike")
    for scene in frozen(SIZE):
        stock = Stock(scene.name, SIZE)
        both = engines(scene, stock)
        found = {name: curve(engine, reference(scene.name, name, engine)) for name, engine in both.items()}
        stock.end()
        flip = float(found["stock"][1][COUNTS.index(64)])
        ours, theirs = (time_to(flip, *found[name]) for name in ("ours", "stock"))
        print(
            f"  {scene.name:<11} FLIP {flip:.4f}   ours {ours:.2f} s   stock {theirs:.2f} s   "
            f"ratio {ours / theirs:.2f} (at most 0.5)",
            flush=True,
        )


if __name__ == "__main__":
    main()
