"""Which appearance applies: 2,000 parts, 20 rules, three levels; one edit of an appearance that 1,000 parts wear."""

from __future__ import annotations

import statistics
import time

from benchmarks.big import intake
from benchmarks.big_file import big_file
from benchmarks.scenes import CACHE
from usual_lamp.core.appearance import SHELF
from usual_lamp.core.scene import (
    Assign,
    ChangeAppearance,
    Resolver,
    Rule,
    Scene,
    SetRules,
    apply_edit,
    first_scene,
)
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.service.editing import Edited
from usual_lamp.web import views

COUNT, RULES, RUNS = 2000, 20, 9


def main() -> None:
    assembly = intake(big_file(COUNT), CACHE / "big-levels")
    uids = [part.uid for part in assembly.parts()]
    samples = list(SHELF.values())[:RULES]
    define = {sample.id: sample for sample in samples}
    rules = tuple(Rule(id=f"r{k}", filter=f"part {k} -screw size>1", appearance=samples[k].id) for k in range(RULES))
    groups = [node.uid for node in assembly.occurrences if node.definition is None][:10]
    given = {uid: samples[k % RULES].id for k, uid in enumerate([*uids[:1000:3], *groups, "model-1"])}
    scene = first_scene(assembly, "big")
    for edit in (SetRules(rules=rules, define=define), Assign(assignments=given)):
        scene, _ = apply_edit(scene, edit, assembly.by_uid.keys())

    def resolve() -> None:
        resolver = Resolver(assembly, scene)
        for part in assembly.parts():
            resolver.resolve(part)

    start = time.process_time()
    resolve()
    first = time.process_time() - start
    print(f"{len(uids)} parts, {RULES} rules, three levels")
    print(f"  resolved: {1000 * median(resolve):.0f} ms of CPU (under 50); the first time {1000 * first:.0f} ms")

    shared = Assign(assignments=dict.fromkeys(uids[:1000], samples[0].id))
    scene, _ = apply_edit(scene, shared, assembly.by_uid.keys())

    def edit_it(now: Scene = scene) -> None:
        params = samples[0].params.model_copy(update={"specular_roughness": 0.5})
        change = ChangeAppearance(appearance=samples[0].model_copy(update={"params": params}))
        changed, _ = apply_edit(now, change, assembly.by_uid.keys())
        changed.model_dump_json()
        views.standing(Edited(1, changed, assembly, None, None), ResolvedScene(assembly, changed)).model_dump_json()

    print(
        f"  one edit of an appearance that 1,000 parts wear, told: {1000 * median(edit_it):.0f} ms of CPU (under 100)"
    )


def median(run: object) -> float:
    spent = []
    for _ in range(RUNS):
        start = time.process_time()
        run()  # type: ignore[operator]
        spent.append(time.process_time() - start)
    return statistics.median(spent)


if __name__ == "__main__":
    main()
