"""Intake of the demo assembly against bare Open CASCADE: read and transfer the same file, mesh it just as finely."""

from __future__ import annotations

import os
import resource
import shutil
import statistics
import subprocess
import sys
from collections.abc import Callable

from benchmarks.scenes import CACHE, demo_file
from usual_lamp.core.intake import take_in
from usual_lamp.core.intake.tessellation import QUALITIES

RUNS = 3
BARE = """
import sys
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
from OCP.XCAFDoc import XCAFDoc_DocumentTool
from OCP.collections import Sequence_TDF_Label
document = TDocStd_Document(TCollection_ExtendedString("bare"))
reader = STEPCAFControl_Reader()
for mode in (reader.SetColorMode, reader.SetNameMode, reader.SetLayerMode):
    mode(True)
reader.ReadFile(sys.argv[1])
reader.Transfer(document)
tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
roots = Sequence_TDF_Label()
tool.GetFreeShapes(roots)
for index in range(1, roots.Length() + 1):
    shape = tool.GetShape_s(roots.Value(index))
    BRepMesh_IncrementalMesh(shape, float(sys.argv[2]), False, float(sys.argv[3]), True)
"""


def cpu_of_children(run: Callable[[], object]) -> float:
    """CPU seconds of the processes that `run` starts and waits for."""

    def spent() -> float:
        usage = resource.getrusage(resource.RUSAGE_CHILDREN)
        return usage.ru_utime + usage.ru_stime

    before = spent()
    run()
    return spent() - before


def main() -> None:
    file = demo_file()
    assembly = take_in(file, CACHE / "intake-0", name="demo").assembly
    angle = str(QUALITIES["fair"].angle)
    environment = os.environ | {"PYTHONPATH": ""}

    def bare() -> None:
        command = [sys.executable, "-c", BARE, str(file), str(assembly.chord), angle]
        subprocess.run(command, check=True, env=environment)

    def ours() -> None:
        folder = CACHE / "intake-run"
        take_in(file, folder, name="demo")
        shutil.rmtree(folder)

    pairs = [(cpu_of_children(ours), cpu_of_children(bare)) for _ in range(RUNS)]
    our_time, bare_time = (statistics.median(column) for column in zip(*pairs, strict=True))
    triangles = sum(definition.triangles for definition in assembly.definitions.values())
    print(f"intake of the demo, {triangles} triangles in {len(assembly.definitions)} definitions, median of {RUNS}")
    print(f"  CPU s     ours {our_time:.2f}   bare {bare_time:.2f}   ratio {our_time / bare_time:.2f} (at most 1.25)")


if __name__ == "__main__":
    main()
