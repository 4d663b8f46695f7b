"""What the checks before a still cost as assemblies grow: CPU time, the first time and after an edit."""

from __future__ import annotations

import statistics
import time

import numpy as np

from benchmarks.answers import boxes
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.outline import outermost
from usual_lamp.core.scene import SetStates, apply_edit, first_scene
from usual_lamp.core.scene.preflight import Ready, preflight
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.core.scene.resolved import ResolvedScene

COUNTS, RUNS = (60, 2000, 10_000), 9


def no_mesh(name: str) -> Mesh:
    raise LookupError(name)


def main() -> None:
    ball = outermost(np.random.default_rng(1).normal(size=(2000, 3)))
    for count in COUNTS:
        assembly = boxes(count)
        for key, definition in assembly.definitions.items():
            assembly.definitions[key] = definition.model_copy(update={"outline": ball})
        resolved = ResolvedScene(assembly, first_scene(assembly, "r"))
        times = []
        uids = [part.uid for part in assembly.parts()]
        for run in range(RUNS):
            began = time.process_time()
            preflight(Ready(resolved, DEFAULT_SHOT, no_mesh, {}))
            times.append(time.process_time() - began)
            edit = SetStates(states={uids[run]: "hidden"})
            resolved, _ = resolved.after(apply_edit(resolved.scene, edit, assembly.by_uid)[0])
        print(
            f"{count:6} parts: {times[0]:.3f} CPU s the first time, {statistics.median(times[1:]):.3f} after an edit"
            f"{' (asked 1.5)' if count == 2000 else ''}"
        )
