"""Big assemblies in the tracer: what building, memory, hiding, moving and tracing cost, with instances and without.

2,000 and 10,000 occurrences of 100 definitions, each size and way in a process of its own. Hiding and moving are what a
lamp does between an edit and its next sample: inputs made anew, world changed, one small picture traced.
"""

from __future__ import annotations

import json
import subprocess
import sys
import time
from dataclasses import replace

import numpy as np
import psutil
from scipy.spatial.transform import Rotation

from benchmarks.scenes import different_appearances, turned_part
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.camera import Camera
from usual_lamp.core.scene.document import Lighting
from usual_lamp.core.scene.resolution import TraceInputs, TracePart

DEFINITIONS, SIZE = 100, (640, 480)
COUNTS = (2000, 10000)
SAMPLES = 4


def meshes() -> dict[str, Mesh]:
    """3,738 triangles in the mean each, as in the assembly that this is measured against."""
    knob = turned_part()
    copies = range(4)
    lift = np.array([0, 0, 9], np.float32)
    points = np.concatenate([knob.positions + k * lift for k in copies])
    normals = np.tile(knob.normals, (4, 1))
    triangles = np.concatenate([knob.triangles + np.uint32(k * len(knob.positions)) for k in copies])
    ranges = np.array([[0, len(triangles)]], np.uint32)
    stack = Mesh(points, normals, triangles, ranges, knob.edges)
    return {f"d{k}": replace(stack, positions=stack.positions * np.float32(1 - k / 300)) for k in range(DEFINITIONS)}


def inputs(count: int) -> TraceInputs:
    """Parts all over a cube, each turned its own way."""
    random = np.random.default_rng(4)
    side = 25 * count ** (1 / 3)
    turns = Rotation.random(count, random_state=4).as_matrix()
    matrices = np.tile(np.eye(4), (count, 1, 1))
    matrices[:, :3, :3], matrices[:, :3, 3] = turns, random.uniform(-side / 2, side / 2, (count, 3))
    plain = [appearance.model_copy(update={"textures": ()}) for appearance in different_appearances(12)]
    parts = [
        TracePart(mesh=f"d{k % DEFINITIONS}", matrix=tuple(matrices[k].ravel()), appearance=k % 12)
        for k in range(count)
    ]
    return TraceInputs(
        parts=parts, appearances=plain, lighting=Lighting(), width=SIZE[0], height=SIZE[1],
        camera=Camera(position=(side, -2 * side, side), target=(0, 0, 0), focal_length=50), floor_height=-side / 2,
        center=(0, 0, 0), radius=side * 0.87,
    )  # fmt: skip


def child(count: int, shared: bool) -> dict[str, float]:
    """Everything that is measured of one scene, CPU seconds and MB."""
    from usual_lamp.core.trace.plan import Tile
    from usual_lamp.core.trace.transport.tiles import trace_block
    from usual_lamp.core.trace.world import shapes
    from usual_lamp.core.trace.world.world import World

    if not shared:
        shapes.WRITTEN_OUT = count
    whole, known = inputs(count), meshes()
    small = whole.model_copy(update={"parts": whole.parts[:4]})
    trace_block(World(small, known.__getitem__), Tile(0, 0, 16, 16), 0, 1)
    before, start = psutil.Process().memory_info().rss, time.process_time()
    world = World(whole, known.__getitem__)
    found = {"build": time.process_time() - start, "MB": (psutil.Process().memory_info().rss - before) / 2**20}
    tile = Tile(0, 0, *SIZE)
    trace_block(world, tile, 0, SAMPLES)
    times = []
    for k in range(3):
        start = time.process_time()
        trace_block(world, tile, SAMPLES * (k + 1), SAMPLES * (k + 2))
        times.append(time.process_time() - start)
    found["trace"] = float(np.median(times))

    def change(parts: list[TracePart]) -> float:
        start = time.process_time()
        world.change(whole.model_copy(update={"parts": parts}))
        return time.process_time() - start

    matrix = whole.parts[7].matrix
    moved = (*matrix[:3], matrix[3] + 5.0, *matrix[4:])
    rest = [p for k, p in enumerate(whole.parts) if k != 7]
    found["hide"] = change(rest)
    found["show"] = change(whole.parts)
    found["move"] = change([whole.parts[7].model_copy(update={"matrix": moved}), *rest])
    return found


def measured(count: int, shared: bool) -> dict[str, float]:
    code = f"import json; from benchmarks.placed import child; print(json.dumps(child({count}, {shared})))"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    return dict(json.loads(done.stdout.splitlines()[-1]))


def main() -> None:
    once = sum(len(mesh.triangles) for mesh in meshes().values())
    print(f"{DEFINITIONS} definitions, {once:,} triangles once; CPU seconds and MB, written out in brackets")
    for count in COUNTS:
        ours = measured(count, True)
        print(f"  {count:,} parts, {once * count // DEFINITIONS / 1e6:.1f} million triangles placed")
        apart = measured(count, False) if count == COUNTS[0] else {}
        for name, value in ours.items():
            print(f"    {name:<6} {value:8.2f}" + (f"   ({apart[name]:.2f})" if apart else ""))
        if apart:
            print(f"    tracing, shared over written out: {ours['trace'] / apart['trace']:.2f} (at most 1.15)")


if __name__ == "__main__":
    main()
