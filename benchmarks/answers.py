"""What an edit costs and sends as assemblies grow: CPU time and bytes, without the database.

An assembly of boxes of 100 kinds, each placed many times. Measured is what the web does with an edit: reading the
scene, applying, writing it, resolving what it touches, and the answer; and beside it the whole that a desk opens with.
"""

from __future__ import annotations

import gzip
import statistics
import time
from collections.abc import Iterable

import numpy as np

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.assembly import Assembly, Occurrence, PartDefinition
from usual_lamp.core.scene import Assign, Scene, SetLighting, SetStates, apply_edit, first_scene
from usual_lamp.core.scene.document import Lighting
from usual_lamp.core.scene.edits import BaseEdit
from usual_lamp.service.editing import Edited, Step
from usual_lamp.service.resolving import Resolutions
from usual_lamp.web import views

COUNTS, KINDS, RUNS = (250, 1000, 2000, 10_000), 100, 15
BRASS, STEEL = SHELF["brass-turned"], SHELF["steel-machined"]


def boxes(count: int) -> Assembly:
    """So many boxes in groups of fifty."""
    definitions = {
        f"d{kind}": PartDefinition(
            key=f"d{kind}", name=f"Block {kind}", mesh=f"{kind:064x}", shape=None, triangles=12, solids=1, volume=1.0,
            area=6.0, bounds=((0, 0, 0), (1, 1, 1)), color=(0.2, 0.4, 0.01 * kind),
        )
        for kind in range(KINDS)
    }  # fmt: skip
    nodes = []
    for number in range(count):
        if number % 50 == 0:
            nodes.append(
                Occurrence(uid=f"g{number:011d}", name=f"Group {number}", placement=np.eye(4).ravel().tolist())
            )
        place = np.eye(4)
        place[:3, 3] = np.unravel_index(number, (100, 100, 10))
        nodes.append(
            Occurrence(
                uid=f"p{number:011d}", parent=nodes[-1 - number % 50].uid, name=f"Block {number}",
                placement=place.ravel().tolist(), definition=f"d{number % KINDS}",
            )
        )  # fmt: skip
    return Assembly(name="Boxes", chord=0.1, angle=0.3, definitions=definitions, occurrences=nodes)


def cost(assembly: Assembly, edits: Iterable[BaseEdit]) -> tuple[float, int]:
    """CPU milliseconds of an edit, in the median, and the bytes of its answer."""
    scene, resolutions = first_scene(assembly, "r"), Resolutions()
    resolutions.resolved("r", standing(assembly, scene, 0))
    text, times, size = scene.model_dump_json(), [], 0
    for seq, edit in enumerate(edits, start=1):
        began = time.process_time()
        scene, _ = apply_edit(Scene.model_validate_json(text), edit, assembly.by_uid.keys())
        text = scene.model_dump_json()
        edited = standing(assembly, scene, seq)
        found = resolutions.since("r", edited, seq - 1)
        assert found is not None
        answer = views.change(edited, seq - 1, found).model_dump_json()
        times.append(1000 * (time.process_time() - began))
        size = len(answer)
    return statistics.median(times), size


def standing(assembly: Assembly, scene: Scene, seq: int) -> Edited:
    return Edited(seq, scene, assembly, Step("Hide 1 part", "tab-1"), None)


def main() -> None:
    print(f"an edit and its answer, CPU ms (median of {RUNS}) and bytes; {KINDS} kinds of boxes")
    for count in COUNTS:
        assembly = boxes(count)
        uids = [part.uid for part in assembly.parts()]
        assembly.boxes(list(assembly.parts()))
        hide = [SetStates(states={uid: "hidden"}) for uid in uids[:RUNS]]
        give = [
            Assign(assignments=dict.fromkeys(uids[:500], one.id), define={one.id: one})
            for one in [BRASS, STEEL] * (RUNS // 2)
        ]
        light = [SetLighting(lighting=Lighting(turn=float(turn))) for turn in range(RUNS)]
        words = [f"{name} {cost(assembly, edits)[0]:.1f} ms, {cost(assembly, edits)[1]:,} bytes" for name, edits in (
            ("hide one part", hide), (f"give {min(500, count)} parts", give), ("turn the light", light))]  # fmt: skip
        scene = first_scene(assembly, "r")
        began = time.process_time()
        edited = standing(assembly, scene, 0)
        whole = views.standing(edited, Resolutions().resolved("r", edited)).model_dump_json().encode()
        spent = 1000 * (time.process_time() - began)
        sizes = f"{len(whole):,} bytes ({len(gzip.compress(whole, 3)):,} packed)"
        print(f"  {count:6d} parts: {'; '.join(words)}; the whole {spent:.0f} ms, {sizes}")


if __name__ == "__main__":
    main()
