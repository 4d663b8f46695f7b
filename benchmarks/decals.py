"""What decals cost on the demo: none, 40 and 400 on its largest part, and spread over all parts.

Ratios of CPU time in one run, each in turns; the first call of each, with its compilation, is printed beside.
"""

from __future__ import annotations

import time

import numpy as np

from benchmarks.scenes import demo_inputs, mesh_of
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import numbers_of, trace_pixels
from usual_lamp.core.trace.world.world import World

SIZE = (320, 240)
ROUNDS = 5
SAMPLES = 4


def with_decals(inputs: TraceInputs, count: int, spread: bool) -> TraceInputs:
    """So many labels of 6 x 3 mm on a grid, on the front of the part with most room or on each part in turn."""
    rng = np.random.default_rng(1)
    sizes = [float(np.ptp(mesh_of(part.mesh).positions, axis=0).max()) for part in inputs.parts]
    owners = list(range(len(sizes))) if spread else [int(np.argmax(sizes))]
    laid: dict[int, list[PictureOnPart]] = {}
    for k in range(count):
        number = owners[k % len(owners)]
        points = mesh_of(inputs.parts[number].mesh).positions
        x, z = rng.uniform(points.min(axis=0), points.max(axis=0))[[0, 2]]
        label = PictureOnPart(
            picture="label", center=(x, float(points[:, 1].min()), z), right=(1, 0, 0), up=(0, 0, 1), width=6, height=3,
            depth=2, front_only=True, printed=True,
        )  # fmt: skip
        laid.setdefault(number, []).append(label)
    parts = [
        part.model_copy(update={"pictures": (*part.pictures, *laid.get(number, []))})
        for number, part in enumerate(inputs.parts)
    ]
    return inputs.model_copy(update={"parts": parts})


def main() -> None:
    inputs = demo_inputs(SIZE)
    label = np.ones((64, 128, 4), np.float32)
    label[16:48, 16:112, :3] = 0.1
    wishes = {"none": (0, False), "1": (1, False), "40 on one part": (40, False), "40 on 40 parts": (40, True)}
    wishes |= {"400 on one part": (400, False), "400 on all parts": (400, True)}
    worlds, first = {}, {}
    pixels = numbers_of(Tile(0, 0, *SIZE), SIZE[0])
    for name, (count, spread) in wishes.items():
        worlds[name] = World(with_decals(inputs, count, spread), mesh_of, picture_of=lambda *_: label)
        began = time.process_time()
        trace_pixels(worlds[name], pixels, 0, SAMPLES)
        first[name] = time.process_time() - began
    times: dict[str, list[float]] = {name: [] for name in worlds}
    for turn in range(1, ROUNDS + 1):
        for name, world in worlds.items():
            began = time.process_time()
            trace_pixels(world, pixels, turn * SAMPLES, (turn + 1) * SAMPLES)
            times[name].append(time.process_time() - began)
    bare = float(np.median(times["none"]))
    print("time over a picture without decals (40 at most 1.15, 400 at most 1.4):")
    for name, found in times.items():
        ratio = float(np.median(found)) / bare
        print(f"  {name:18} {ratio:.2f}, first {first[name]:.1f} CPU s")


if __name__ == "__main__":
    main()
