"""What a large still takes of memory, each in a process of its own: traced, cleaned and written as the command does.

One sample a pixel: sums, blocks and files are the same however many there are. The peer renders the same scene in one
picture with the stock tracer, cleans it at once without guides, and writes it.
"""

from __future__ import annotations

import json
import subprocess
import sys

SIZES = ((1920, 1080), (3840, 2160), (7680, 4320))
OURS = """
import json, resource, sys, tempfile, time
from pathlib import Path
import numpy as np
from benchmarks.scenes import frozen
from usual_lamp.core.camera import Finish
from usual_lamp.core.picture.finishing import encoded_rows
from usual_lamp.core.picture.negative import Negative, clean_into
from usual_lamp.core.picture.png_file import write_png
from usual_lamp.core.trace.jobs.still import trace_into
from usual_lamp.core.trace.tiled import ScratchTiles, TiledPicture
from usual_lamp.core.trace.world.world import World

scene = next(s for s in frozen({size}) if s.name == "demo")
world = World(scene.inputs, scene.mesh_of)
with tempfile.TemporaryDirectory() as folder:
    sums = ScratchTiles(Path(folder))
    for _ in trace_into(sums, world, 1):
        pass
    traced = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    began = time.process_time()
    picture = TiledPicture(*{size}, lambda number: sums[number])
    negative = Path(folder) / "negative.exr"
    clean_into(negative, picture.size, picture.layers, picture.sketch, "best")
    with (Path(folder) / "picture.png").open("wb") as file:
        write_png(file, picture.size, encoded_rows(Negative(negative), Finish(), np.uint8), dict())
    spent = time.process_time() - began
print(json.dumps([traced / 1024, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, spent]))
"""
STOCK = """
import json, resource, time
import numpy as np
from PIL import Image
from benchmarks.scenes import frozen
from benchmarks.stock import stock_scene
from usual_lamp.core.picture.develop import _filter
from usual_lamp.core.picture.tone import srgb_encode
from usual_lamp.core.trace.engine import dr, mi

scene = next(s for s in frozen({size}) if s.name == "demo")
light = np.array(mi.render(stock_scene(scene.inputs, {size}, scene.mesh_of), spp=1))[..., :3]
traced = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
began = time.process_time()
clean = _filter("color", np.ascontiguousarray(light), dict(), 6)
Image.fromarray((srgb_encode(clean) * 255).astype(np.uint8)).save("/dev/null", "PNG")
spent = time.process_time() - began
print(json.dumps([traced / 1024, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, spent]))
"""


def measured(child: str, size: tuple[int, int]) -> tuple[float, float, float]:
    """MB when all is traced, MB at the peak, and CPU seconds from the one to the file."""
    code = child.format(size=size)
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    traced, peak, spent = json.loads(done.stdout.splitlines()[-1])
    return traced, peak, spent


def main() -> None:
    """Print one line for each size."""
    print("peak memory of the process that makes a still of the demo, one sample a pixel")
    for size in SIZES:
        traced, peak, spent = measured(OURS, size)
        bare = measured(STOCK, size)
        print(
            f"  {size[0]} x {size[1]}  ours {peak:.0f} MB (traced {traced:.0f}), {spent:.0f} CPU s to the file   "
            f"stock {bare[1]:.0f} MB (traced {bare[0]:.0f}), {bare[2]:.0f} CPU s   ratio {peak / bare[1]:.2f}"
        )


if __name__ == "__main__":
    main()
