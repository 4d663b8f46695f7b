"""Intake against bare Open CASCADE, which reads and meshes the same file just as finely, and against another converter.

A home's dispatcher loads the CAD kernel once and forks a child for each import; `./lamp still` loads it for its one.
Both are told beside the others with and without what they load.
"""

from __future__ import annotations

import json
import os
import resource
import shutil
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from benchmarks.big_file import big_file
from benchmarks.scenes import CACHE, demo_file
from usual_lamp.core.assembly import Assembly
from usual_lamp.core.intake import PRELOADED, take_in
from usual_lamp.core.intake.tessellation import QUALITIES, Quality

RUNS = 3
BIG, BIG_QUALITY = (2000, 10000), "fine"
"""Occurrences, and how finely they are tessellated: six million triangles at 2,000."""
BARE = """
import json, sys, time
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
from OCP.XCAFDoc import XCAFDoc_DocumentTool
from OCP.collections import Sequence_TDF_Label
loaded = time.process_time()
document = TDocStd_Document(TCollection_ExtendedString("bare"))
reader = STEPCAFControl_Reader()
for mode in (reader.SetColorMode, reader.SetNameMode, reader.SetLayerMode):
    mode(True)
reader.ReadFile(sys.argv[1])
reader.Transfer(document)
read = time.process_time()
tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
roots = Sequence_TDF_Label()
tool.GetFreeShapes(roots)
for index in range(1, roots.Length() + 1):
    shape = tool.GetShape_s(roots.Value(index))
    BRepMesh_IncrementalMesh(shape, float(sys.argv[2]), False, float(sys.argv[3]), True)
print(json.dumps([loaded, time.process_time() - read]))
"""
OTHER = """
import json, sys, time
import cascadio
loaded = time.process_time()
cascadio.step_to_glb(sys.argv[1], sys.argv[2], float(sys.argv[3]), float(sys.argv[4]))
print(json.dumps([loaded]))
"""
FORKED = """
import importlib, json, os, sys
from usual_lamp.core.sandbox import child
for module in sys.argv[2:]:
    importlib.import_module(module)
pid = os.fork()
if pid == 0:
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
    os._exit(child.work("usual_lamp.core.intake.child:read", sys.argv[1]))
_, status, spent = os.wait4(pid, 0)
print(json.dumps([os.waitstatus_to_exitcode(status), spent.ru_utime + spent.ru_stime]))
"""
"""What a nursery does for one request."""


def cpu_of_children(run: Callable[[], object]) -> float:
    """CPU seconds of the processes that `run` starts and waits for."""

    def spent() -> float:
        usage = resource.getrusage(resource.RUSAGE_CHILDREN)
        return usage.ru_utime + usage.ru_stime

    before = spent()
    run()
    return spent() - before


def answer(code: str, *arguments: str, path: str = "") -> list[float]:
    """The numbers that a script of its own prints at last."""
    environment = os.environ | {"PYTHONPATH": path, "OPENBLAS_NUM_THREADS": "1"}
    command = [sys.executable, "-c", code, *arguments]
    done = subprocess.run(command, check=True, env=environment, stdout=subprocess.PIPE, text=True)
    numbers: list[float] = json.loads(done.stdout.strip().splitlines()[-1])
    return numbers


@dataclass
class Compared:
    """CPU seconds for one file, medians."""

    ours: float
    """Of a process that takes in this one file, with what it loads."""
    forked: float
    """Of an import in a running home: a child of what has loaded everything, and what its parent does."""
    bare: float
    bare_loading: float
    bare_meshing: float
    other: float
    other_loading: float

    def tell(self) -> None:
        """Print all times and ratios; those of a home are asked to be at most 1.25 and 1.0."""
        print(f"  CPU s: in a home {self.forked:.2f}, alone {self.ours:.2f}")
        rows = (("bare", self.bare, self.bare_loading), ("the other converter", self.other, self.other_loading))
        for name, whole, loading in rows:
            home, less, alone = self.forked / whole, self.forked / (whole - loading), self.ours / whole
            print(f"  {name} {whole:.2f}, {loading:.2f} of it loading. Ratio in a home {home:.2f}, alone {alone:.2f};")
            print(f"    in a home to the other less its loading {less:.2f}")


def compared(file: Path, quality: Quality, runs: int = RUNS) -> tuple[Assembly, Compared]:
    """Our assembly of a file, and what it takes beside the others."""
    folder = CACHE / "intake-run"
    shutil.rmtree(folder, ignore_errors=True)
    assembly = take_in(file, folder, quality=quality).assembly
    fineness = (str(assembly.chord), str(QUALITIES[quality].angle))

    def once() -> tuple[float, ...]:
        request = (folder / "request.json").read_text()
        shutil.rmtree(folder)
        before = time.process_time()
        child = cpu_of_children(lambda: take_in(file, folder, quality=quality))
        parent = time.process_time() - before
        shutil.rmtree(folder)
        folder.mkdir()
        (folder / "request.json").write_text(request)
        code, forked = answer(FORKED, str(folder / "request.json"), *PRELOADED, path=os.environ["PYTHONPATH"])
        if code or not (folder / "assembly.json").exists():
            raise RuntimeError(f"the forked import of {file} failed")
        numbers: list[float] = []
        bare = cpu_of_children(lambda: numbers.extend(answer(BARE, str(file), *fineness)))
        glb = str(CACHE / "other.glb")
        other = cpu_of_children(lambda: numbers.extend(answer(OTHER, str(file), glb, *fineness)))
        loading, meshing, other_loading = numbers
        return child + parent, forked + parent, bare, loading, meshing, other, other_loading

    rows = [once() for _ in range(runs)]
    return assembly, Compared(*(statistics.median(column) for column in zip(*rows, strict=True)))


def main() -> None:
    files: list[tuple[Path, Quality]] = [(demo_file(), "fair"), *((big_file(count), BIG_QUALITY) for count in BIG)]
    for file, quality in files:
        assembly, found = compared(file, quality)
        parts = [assembly.definition_of(part) for part in assembly.parts()]
        triangles = sum(part.triangles for part in parts)
        print(f"intake of {len(parts)} parts of {len(assembly.definitions)} definitions, {triangles} triangles")
        found.tell()


if __name__ == "__main__":
    main()
