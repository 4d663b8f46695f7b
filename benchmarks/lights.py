"""What light costs on the demo: sums by group, many lamps, a change of level, a turn, and each of the surroundings.

Ratios of CPU time in one run, each pair taken in turns; error is the difference of two seeds, before denoising.
"""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from benchmarks.scenes import demo_inputs, mesh_of
from usual_lamp.core.light import LIGHTINGS, Lamp
from usual_lamp.core.light.arranging import Stand, new_lamp
from usual_lamp.core.light.lamps import PanelLamp
from usual_lamp.core.picture.tone import srgb_encode, tone_map
from usual_lamp.core.scene import Lighting
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.jobs.live import LivePicture
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import numbers_of, trace_block, trace_groups, trace_pixels
from usual_lamp.core.trace.world.world import World

SIZE, SMALL = (480, 360), (160, 120)
ROUNDS = 5


def lit(inputs: TraceInputs, lighting: Lighting) -> TraceInputs:
    return inputs.model_copy(update={"lighting": lighting})


def medians(*ways: Callable[[int], object]) -> list[float]:
    """CPU seconds of each way, in turns; a first call of each is not counted."""
    for way in ways:
        way(0)
    found: list[list[float]] = [[] for _ in ways]
    for turn in range(1, ROUNDS + 1):
        for way, times in zip(ways, found, strict=True):
            began = time.process_time()
            way(turn)
            times.append(time.process_time() - began)
    return [float(np.median(times)) for times in found]


def panels(inputs: TraceInputs, count: int) -> dict[str, Lamp]:
    """So many panels on a ring above, which give as much light together as one key light."""
    center = np.array(inputs.center)
    stand = Stand(center, inputs.radius, inputs.floor_height, np.array(inputs.camera.position))
    key = new_lamp("panel", stand, "Key")
    assert isinstance(key, PanelLamp)
    turns = np.linspace(0, 2 * np.pi, count, endpoint=False)
    places = [center + inputs.radius * np.array([2.4 * np.sin(t + 0.6), -2.4 * np.cos(t + 0.6), 1.9]) for t in turns]
    small = {"width": key.width / count**0.5, "height": key.height / count**0.5}
    return {
        f"p{k}": key.model_copy(update={"position": tuple(float(v) for v in place), **small})
        for k, place in enumerate(places)
    }


def error(world: World, samples: int = 16) -> float:
    """Relative root mean square error of so many samples."""
    one, two = two_pictures(world, samples)
    return float(np.sqrt(np.mean((one - two) ** 2) / 2) / one.mean())


def errors(world: World, samples: int = 16) -> list[float]:
    """Root mean square error on the screen, where the mean of the picture is shown as middle grey, and of scene-linear
    light over its mean; of four pairs of seeds."""
    found = []
    for pair in range(4):
        one, two = two_pictures(world, samples, pair)
        white = 0.18 / one.mean()
        shown = [srgb_encode(tone_map(np.asarray(picture * white, np.float32), "neutral")) for picture in (one, two)]
        found.append([np.mean((shown[0] - shown[1]) ** 2), np.mean((one - two) ** 2) / one.mean() ** 2])
    return list(np.sqrt(np.mean(found, axis=0) / 2))


def two_pictures(world: World, samples: int, pair: int = 0) -> list[NDArray[np.float32]]:
    """Two seeds of one picture, scene-linear."""
    area, seeds = Tile(0, 0, *SMALL), (2 * pair + 1, 2 * pair + 2)
    return [trace_block(world, area, 0, samples, seed=seed)[..., :3] / np.float32(samples) for seed in seeds]


def sums_by_group(inputs: TraceInputs) -> None:
    pixels = numbers_of(Tile(0, 0, *SIZE), SIZE[0])
    for name, lamps in (("no lamps", {}), ("4 lamps", panels(inputs, 4))):
        world = World(lit(inputs, Lighting(lamps=lamps)), mesh_of)
        plain, *kept = medians(
            lambda turn, w=world: trace_pixels(w, pixels, 4 * turn, 4 * turn + 4),
            *(lambda turn, w=world, k=k: trace_groups(w, pixels, 4 * turn, 4 * turn + 4, k) for k in (2, 4, 8)),
        )
        ratios = ", ".join(f"{k}: {cpu / plain:.2f}" for k, cpu in zip((2, 4, 8), kept, strict=True))
        print(f"sums of lights apart, {name}: time over a plain pass for {ratios} (8 at most 1.15)")


def many_lamps(inputs: TraceInputs) -> None:
    small = inputs.model_copy(update={"width": SMALL[0], "height": SMALL[1]})
    worlds = {n: World(lit(small, Lighting(brightness=0.3, lamps=panels(inputs, n))), mesh_of) for n in (1, 8, 64)}
    area = Tile(0, 0, *SMALL)
    times = medians(*(lambda turn, w=w: trace_block(w, area, 16 * turn, 16 * turn + 16) for w in worlds.values()))
    costs = [cpu * error(world) ** 2 for cpu, world in zip(times, worlds.values(), strict=True)]
    for count, cpu, cost in zip(worlds, times, costs, strict=True):
        print(f"{count} lamps: time {cpu / times[0]:.2f}, time to equal error {cost / costs[0]:.2f} (64 at most 1.5)")


def changes(inputs: TraceInputs) -> None:
    """A level and a turn on the desk, over one bare pass of one sample."""
    lamps = panels(inputs, 4)
    live = LivePicture(mesh_of)
    live.follow(lit(inputs, Lighting(lamps=lamps)))
    while live.samples < 8:
        live.step()
    bare = World(lit(inputs, Lighting(lamps=lamps)), mesh_of)
    pixels = numbers_of(Tile(0, 0, *SIZE), SIZE[0])

    def level(turn: int) -> None:
        assert not live.follow(lit(inputs, Lighting(lamps=lamps, brightness=1.0 + 0.05 * turn)))
        live.picture()

    cpu, passed = medians(level, lambda turn: trace_pixels(bare, pixels, turn, turn + 1))
    print(
        f"a level: {cpu:.2f} CPU s for the changed sums, {cpu / passed:.2f} of a bare pass of one sample; no new sample"
    )

    def turned(turn: int) -> None:
        live.follow(lit(inputs, Lighting(lamps=lamps, turn=5.0 * turn + 5)))
        while live.samples < 1:
            live.step()

    cpu, passed = medians(turned, lambda turn: trace_pixels(bare, pixels, turn, turn + 1))
    print(f"first pass after a turn over a bare pass: {cpu / passed:.2f} (at most 1.3)")


def surroundings(inputs: TraceInputs) -> None:
    small = inputs.model_copy(update={"width": SMALL[0], "height": SMALL[1]})
    area, world = Tile(0, 0, *SMALL), World(small, mesh_of)
    costs = {}
    for name in (name for name, one in LIGHTINGS.items() if one.listed):
        world.change(lit(small, Lighting(surroundings=name)))
        (cpu,) = medians(lambda turn: trace_block(world, area, 16 * turn, 16 * turn + 16))
        costs[name] = cpu * np.array(errors(world)) ** 2
    least = np.min(list(costs.values()), axis=0)
    print("time to equal error over the best (at most 4), on the screen and in scene-linear light:")
    for name, cost in sorted(costs.items(), key=lambda one: float(one[1][0])):
        on_screen, in_light = cost / least
        print(f"  {LIGHTINGS[name].label:32} {on_screen:.2f} {in_light:.2f}")


def main() -> None:
    inputs = demo_inputs(SIZE)
    sums_by_group(inputs)
    many_lamps(inputs)
    changes(inputs)
    surroundings(inputs)


if __name__ == "__main__":
    main()
