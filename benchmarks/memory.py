"""Memory of a lamp session against a bare Mitsuba scene of the same geometry, each in a process of its own."""

from __future__ import annotations

import json
import subprocess
import sys

SIZE = (640, 480)
CHILD = """
import json, os, sys, psutil
from benchmarks.scenes import frozen
from benchmarks.stock import stock_scene
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.jobs.live import LivePicture

scene = next(s for s in frozen({size}) if s.name == {name!r})
scene.mesh_of(scene.inputs.parts[0].mesh)
mi.render(mi.load_dict(mi.cornell_box()), spp=1)
resident = lambda: psutil.Process().memory_info().rss
before = resident()
if {ours}:
    picture = LivePicture(scene.mesh_of)
    picture.follow(scene.inputs)
    while picture.samples < 4:
        picture.step()
else:
    stock = stock_scene(scene.inputs, {size}, scene.mesh_of)
    image = mi.render(stock, spp=4)
    dr.eval(image)
print(json.dumps((resident() - before) / 2**20))
"""


def megabytes(name: str, ours: bool) -> float:
    code = CHILD.format(size=SIZE, name=name, ours=ours)
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    return float(json.loads(done.stdout.splitlines()[-1]))


def main() -> None:
    print(f"growth of the process by a session, {SIZE[0]}x{SIZE[1]}, 4 samples traced")
    for name in ("demo", "as1-oc-214", "tray"):
        ours, bare = megabytes(name, True), megabytes(name, False)
        print(f"  {name:<11} ours {ours:.0f} MB   bare scene {bare:.0f} MB   ratio {ours / bare:.2f} (at most 1.5)")


if __name__ == "__main__":
    main()
