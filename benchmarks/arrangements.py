"""Two tracing processes with one thread each against one with two: wall time and peak memory for the same units.

Building the scene and compiling come before the clock starts. The two share the work as the farm does it: whoever is
free takes the next unit.
"""

from __future__ import annotations

import json
import statistics
import subprocess
import sys
import time

RUNS = 3
CASES = (((1280, 960), 16), ((3840, 2160), 2))
"""Pictures, and samples a pixel."""
CHILD = """
import json, resource, sys
from benchmarks.scenes import frozen
from usual_lamp.core.trace.engine import dr
from usual_lamp.core.trace.plan import units
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

dr.set_thread_count({threads})
scene = next(s for s in frozen({size}) if s.name == "demo")
world = World(scene.inputs, scene.mesh_of)
work = list(units(*{size}, {samples}))
print("built", flush=True)
for line in sys.stdin:
    unit = work[int(line)]
    trace_block(world, unit.tile, unit.start, unit.stop)
    print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, flush=True)
"""


class Processes:
    """So many processes with so many threads each, ready to trace."""

    def __init__(self, count: int, threads: int, size: tuple[int, int], samples: int) -> None:
        code = CHILD.format(threads=threads, size=size, samples=samples)
        pipe = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE, "text": True}
        self.all = [subprocess.Popen([sys.executable, "-c", code], **pipe) for _ in range(count)]
        for one in self.all:
            one.stdout.readline()
            self._trace(one, 0)
            one.stdout.readline()

    @staticmethod
    def _trace(one: subprocess.Popen[str], unit: int) -> None:
        one.stdin.write(f"{unit}\n")
        one.stdin.flush()

    def trace(self, units: int) -> tuple[float, float]:
        """Seconds for all units, and the MB of the largest process at its peak."""
        began, todo, peak = time.monotonic(), iter(range(units)), 0.0
        # Each has one unit and the next, so that nobody waits for us.
        waits = [one for one, unit in zip(self.all * 2, todo, strict=False) if self._trace(one, unit) is None]
        while waits:
            one = waits.pop(0)
            peak = max(peak, json.loads(one.stdout.readline()))
            unit = next(todo, None)
            if unit is not None:
                self._trace(one, unit)
                waits.append(one)
        return time.monotonic() - began, peak

    def end(self) -> None:
        """End them."""
        for one in self.all:
            one.stdin.close()
            one.wait()


def main() -> None:
    from usual_lamp.core.trace.plan import units

    for size, samples in CASES:
        count = len(list(units(*size, samples)))
        one, two = Processes(1, 2, size, samples), Processes(2, 1, size, samples)
        found = [(one.trace(count), two.trace(count)) for _ in range(RUNS)]
        one.end(), two.end()
        ratio = statistics.median(b[0] / a[0] for a, b in found)
        (a, mb_a), (b, mb_b) = (tuple(statistics.median(run[k][j] for run in found) for j in (0, 1)) for k in (0, 1))
        print(
            f"demo, {size[0]} x {size[1]}, {samples} samples: 1 process of 2 threads {a:.1f} s, {mb_a:.0f} MB   "
            f"2 of 1 thread {b:.1f} s, {mb_b:.0f} MB each   ratio {ratio:.2f} (at most 1.15)",
            flush=True,
        )


if __name__ == "__main__":
    main()
