"""What a probe tells of a still, and what the still then takes: its grain and its time, on the three frozen scenes.

The still is traced as a worker does it, tile by tile, and its grain read as it grows. On a quiet machine.
"""

from __future__ import annotations

import time

import numpy as np

from benchmarks.scenes import frozen
from usual_lamp.core.scene.light_groups import light_groups
from usual_lamp.core.trace.group_sums import relit
from usual_lamp.core.trace.jobs.grain import GrainMeter
from usual_lamp.core.trace.jobs.outlook import BEGINS, Forecast
from usual_lamp.core.trace.jobs.probe import probing
from usual_lamp.core.trace.plan import passes, tiles
from usual_lamp.core.trace.transport.tiles import numbers_of, trace_groups
from usual_lamp.core.trace.world.world import World

SIZE = (400, 300)
TOLD = (16, 64, 256)


def main() -> None:
    print(f"told of a still by a probe over what it took, {SIZE[0]}x{SIZE[1]} (within 25 percent is asked)")
    for scene in frozen(SIZE):
        world = World(scene.inputs, scene.mesh_of)
        groups = light_groups(scene.inputs.lighting).kept
        began = time.perf_counter()
        *_, probe = probing(world, groups)
        cost = time.perf_counter() - began
        assert probe is not None
        forecast = Forecast(probe, SIZE[0] * SIZE[1])
        cut, words = tiles(*SIZE), []
        meter, sums = GrainMeter(len(cut)), {tile: np.zeros(0, np.float32) for tile in cut}
        began = time.perf_counter()
        for start, stop in passes(max(TOLD)):
            for number, tile in enumerate(cut):
                found = trace_groups(world, numbers_of(tile, SIZE[0]), start, stop, groups)
                sums[tile] = sums[tile] + found if sums[tile].size else found
                meter.read(number, relit(sums[tile][None], scene.inputs.lighting, None)[0, :, :3], stop)
            if stop in TOLD:
                grain, told = meter.grain(stop), forecast.after(stop)
                assert grain is not None and told.grain is not None
                samples = forecast.at_grain(grain).samples / stop
                seconds = (told.seconds - BEGINS) / (time.perf_counter() - began)
                words.append(f"{stop}: grain {told.grain / grain:.2f}, samples {samples:.2f}, time {seconds:.2f}")
        print(f"  {scene.name:<11} probe {cost:.1f} s   {'   '.join(words)}", flush=True)


if __name__ == "__main__":
    main()
