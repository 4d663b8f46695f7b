"""Reported grain against the error that is really there, before denoising, on the three frozen scenes."""

from __future__ import annotations

import numpy as np

from benchmarks.flip import SIZE, WHOLE, engines, reference
from benchmarks.scenes import frozen
from usual_lamp.core.trace.jobs.grain import GrainMeter
from usual_lamp.core.trace.plan import passes
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

MOST, FIRST = 256, 16


def main() -> None:
    print(f"grain reported (error measured), percent, {SIZE[0]}x{SIZE[1]}")
    for scene in frozen(SIZE):
        target = reference(scene.name, "ours", engines(scene)["ours"])
        world, meter = World(scene.inputs, scene.mesh_of), GrainMeter()
        sums, words, worst = np.zeros((SIZE[1], SIZE[0], 3), np.float32), [], 0.0
        for start, stop in passes(MOST):
            sums += trace_block(world, WHOLE, start, stop)[..., :3]
            meter.read(0, sums, stop)
            if stop < FIRST or stop & (stop - 1):
                continue
            error = float(np.sqrt(np.mean((sums / stop - target) ** 2)) / target.mean())
            grain = meter.grain(stop)
            assert grain is not None
            words.append(f"{stop}: {grain * 100:.1f} ({error * 100:.1f})")
            worst = max(worst, abs(grain / error - 1))
        print(f"  {scene.name:<11} {'   '.join(words)}   off by at most {worst:.0%} (20 asked)", flush=True)


if __name__ == "__main__":
    main()
