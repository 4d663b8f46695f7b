"""A big assembly: sight, matching, edits and filters beside its intake, and how the intake grows."""

from __future__ import annotations

import json
import resource
import shutil
import statistics
import subprocess
import sys
import time
from pathlib import Path

from benchmarks.big_file import big_file
from benchmarks.intake import compared
from benchmarks.scenes import CACHE
from usual_lamp.core.assembly import Assembly, Mesh
from usual_lamp.core.assembly.matching import match
from usual_lamp.core.intake import take_in
from usual_lamp.core.intake.tessellation import Quality
from usual_lamp.core.scene import SetStates, apply_edit, first_scene
from usual_lamp.core.scene.part_filter import facts_of, filtered
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.sight import answer_sight, sight_question
from usual_lamp.service.editing import Edited, Step
from usual_lamp.web import views

COUNT = 2000
QUALITY: Quality = "fine"
"""Which makes six million triangles of it."""
GROWTH = (250, 500, 1000, 2000, 4000)


def intake(file: Path, folder: Path) -> Assembly:
    shutil.rmtree(folder, ignore_errors=True)
    return take_in(file, folder, name="big", quality=QUALITY).assembly


def questions() -> None:
    """Sight, matching, an edit and a filter on the big assembly."""
    folder = CACHE / "big-run"
    _, times = compared(big_file(COUNT), QUALITY)
    assembly = intake(big_file(COUNT), folder)
    scene = first_scene(assembly, "big")
    meshes = {d.mesh: Mesh.from_bytes((folder / d.mesh).read_bytes()) for d in assembly.definitions.values()}
    start = time.process_time()
    answer = answer_sight(sight_question(assembly, scene), meshes.__getitem__)
    sight = time.process_time() - start
    renamed = take_in(big_file(COUNT, renamed=True), CACHE / "big-renamed", name="big", quality=QUALITY).assembly
    start = time.process_time()
    pairs = match(assembly, renamed)
    matching = time.process_time() - start
    kinds = {pair.kind for pair in pairs}
    uids = [part.uid for part in assembly.parts()]
    edit = SetStates(states=dict.fromkeys(uids[:500], "suppressed"))
    edits = []
    for _ in range(9):
        start = time.process_time()
        changed, _ = apply_edit(scene, edit, assembly.by_uid.keys())
        changed.model_dump_json()
        edited = Edited(1, changed, assembly, Step("Suppress 500 parts", None), None)
        views.standing(edited, ResolvedScene(assembly, changed)).model_dump_json()
        edits.append(time.process_time() - start)
    start = time.process_time()
    filtered(facts_of(ResolvedScene(assembly, scene)), "screw size<30")
    filtering = time.process_time() - start
    words = f"{len(answer.never)} never visible; tessellation {times.bare_meshing:.1f}"
    print(f"  who can be seen: {sight:.1f} CPU s, ratio {sight / times.bare_meshing:.2f} (at most 1.0); {words}")
    share = matching / times.ours
    print(f"  matching, all parts renamed: {matching:.2f} CPU s, {share:.2f} of the intake (under 0.20); {kinds}")
    edit_time = 1000 * statistics.median(edits)
    print(f"  suppress 500 parts and tell: {edit_time:.0f} ms of CPU (under 100); filter: {1000 * filtering:.0f} ms")


def growth() -> None:
    print("  growth:  occurrences   intake CPU s   peak MB of the child   manifest KB")
    for count in GROWTH:
        code = (
            "import sys, json, resource; from pathlib import Path; from benchmarks.big import intake; "
            "a = intake(Path(sys.argv[1]), Path(sys.argv[2])); "
            "u = resource.getrusage(resource.RUSAGE_CHILDREN); "
            "print(json.dumps([u.ru_utime + u.ru_stime, u.ru_maxrss / 1024, len(a.model_dump_json()) / 1024]))"
        )
        command = [sys.executable, "-c", code, str(big_file(count)), str(CACHE / "big-growth")]
        cpu, peak, size = json.loads(subprocess.run(command, check=True, capture_output=True, text=True).stdout)
        print(f"           {count:11d}   {cpu:12.1f}   {peak:20.0f}   {size:11.0f}")


def main() -> None:
    resource.getrusage(resource.RUSAGE_CHILDREN)
    questions()
    growth()


if __name__ == "__main__":
    main()
