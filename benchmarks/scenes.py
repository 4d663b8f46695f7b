"""The frozen inputs of the benchmarks: the demo assembly, dressed as in the demo review."""

from __future__ import annotations

import fnmatch
import os
import subprocess
import sys
from functools import lru_cache
from pathlib import Path

from demo.appearances import DEMO_APPEARANCES

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.intake import IntakeResult, take_in
from usual_lamp.core.scene import Assign, apply_edit, first_scene, trace_inputs
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, TraceInputs

CACHE = Path(os.environ.get("USUAL_LAMP_CACHE", "/tmp/usual-lamp-cache")) / "benchmarks"


def demo_file() -> Path:
    CACHE.mkdir(parents=True, exist_ok=True)
    target = CACHE / "dosing-pump.step"
    if not target.exists():
        subprocess.run([sys.executable, "-m", "demo.build", str(target)], check=True, stdout=subprocess.DEVNULL)
    return target


@lru_cache(maxsize=1)
def demo() -> IntakeResult:
    return take_in(demo_file(), CACHE / "demo-intake", name="demo")


def demo_inputs(size: tuple[int, int]) -> TraceInputs:
    assembly = demo().assembly
    uids = {part.uid for part in assembly.parts()}
    scene = first_scene(assembly, "benchmark", size)
    for pattern, name in DEMO_APPEARANCES:
        found = [part.uid for part in assembly.parts() if fnmatch.fnmatch(part.name, pattern)]
        edit = Assign(assignments=dict.fromkeys(found, name), define={name: SHELF[name]})
        scene, _ = apply_edit(scene, edit, uids)
    return trace_inputs(assembly, scene, scene.shots[DEFAULT_SHOT], size)


def mesh_of(key: str) -> Mesh:
    return Mesh.from_bytes(demo().blobs[key].read_bytes())
