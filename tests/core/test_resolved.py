"""A resolved scene that follows edits is the one resolved from scratch; patches lead from one scene to the next."""

from __future__ import annotations

import copy
import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.test_levels import DEFINE, IDS, bolt, everything
from public_files import AS1, step_file
from usual_lamp.core.assembly import Assembly
from usual_lamp.core.intake import take_in
from usual_lamp.core.scene import (
    Assign,
    ChangeAppearance,
    EditRefused,
    Laying,
    LayPictures,
    Lighting,
    Look,
    ReplaceAppearance,
    Rule,
    Scene,
    SetImported,
    SetLighting,
    SetLooks,
    SetRules,
    SetStates,
    apply_edit,
    first_scene,
    model_points,
)
from usual_lamp.core.scene.edits import BaseEdit
from usual_lamp.core.scene.patch import Operation, scene_patch
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.touched import touched

STILL = (1.0, 0, 0, 0, 0, 1.0, 0, 0, 0, 0, 1.0, 0)


@pytest.fixture(scope="module")
def as1(tmp_path_factory: pytest.TempPathFactory) -> Assembly:
    return take_in(step_file(AS1), tmp_path_factory.mktemp("as1"), name="as1", quality="coarse").assembly


def edit_of(as1: Assembly, where: int, name: str | None, how: int) -> BaseEdit:
    keys = list(everything(as1, bolt(as1)))
    uids = [part.uid for part in as1.parts()]
    uid, other, color = uids[where % len(uids)], name or IDS[0], f"cad-{where:06x}ff"
    rules = tuple(
        Rule(id=f"r{k}", filter=word, appearance=other) for k, word in enumerate(["nut", "bolt"][: where % 3])
    )
    return (
        Assign(assignments={keys[where % len(keys)]: name}, define=DEFINE),
        SetRules(rules=rules, define=DEFINE),
        SetLooks(looks={f"look-{where}": Look(name="L", assignments={uid: other}) if name else None}, define=DEFINE),
        SetLooks(show=f"look-{where}"),
        ReplaceAppearance(old=other, new=DEFINE[IDS[where % len(IDS)]]),
        ChangeAppearance(appearance=DEFINE[other].model_copy(update={"name": f"Changed {where}"})),
        SetStates(states={uid: "hidden" if name else None}),
        SetImported(imported={color: name}, stripped=frozenset([uid] if where % 2 else []), define=DEFINE),
        LayPictures(layings={"l": Laying(kind="box", parts={uid: STILL}) if name else None}),
        SetLighting(lighting=Lighting(turn=float(where))),
    )[how]


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 9), st.sampled_from([*IDS, None]), st.integers(0, 9)), max_size=14))
def test_following_edits_is_resolving_anew(as1: Assembly, steps: list[tuple[int, str | None, int]]) -> None:
    scene = first_scene(as1, "r")
    now, trail = ResolvedScene(as1, scene), list[BaseEdit]()
    for step in [*steps, "back", "back"]:
        try:
            edit = trail.pop() if step == "back" and trail else edit_of(as1, *step)  # type: ignore[misc]
            after, inverse = apply_edit(scene, edit, as1.by_uid.keys())
        except (EditRefused, TypeError):
            continue
        trail.append(inverse)
        now, changed = now.after(after)
        fresh, before = ResolvedScene(as1, after), ResolvedScene(as1, scene)
        assert now.worn == fresh.worn and now.look == after.look
        differ = {uid for uid in fresh.worn if fresh.worn[uid] != before.worn[uid]}
        laid = {uid for uid in fresh.worn if fresh.resolver.laid.get(uid) != before.resolver.laid.get(uid)}
        assert changed == differ | laid
        check_patch(scene, after)
        scene = after


def check_patch(before: Scene, after: Scene) -> None:
    document = json.loads(before.model_dump_json())
    for step in scene_patch(before, after):
        apply(document, step)
    expected = json.loads(after.model_dump_json())
    document["stripped"], expected["stripped"] = sorted(document["stripped"]), sorted(expected["stripped"])
    assert document == expected


def apply(document: dict[str, object], step: Operation) -> None:
    """RFC 6902, for the three operations that occur."""
    *above, last = (key.replace("~1", "/").replace("~0", "~") for key in step.path.split("/")[1:])
    place: dict[str, object] = document
    for key in above:
        place = place[key]  # type: ignore[assignment]
    assert (step.op == "add") == (last not in place)
    if step.op == "remove":
        del place[last]
    else:
        place[last] = copy.deepcopy(json.loads(step.model_dump_json())["value"])


def test_an_edit_touches_what_it_names(as1: Assembly) -> None:
    scene = first_scene(as1, "r")
    part = bolt(as1)
    hidden, _ = apply_edit(scene, SetStates(states={part.uid: "hidden"}), as1.by_uid.keys())
    assert touched(as1, scene, hidden, scene.look) == set()
    given_one, _ = apply_edit(scene, Assign(assignments={part.uid: IDS[0]}, define=DEFINE), as1.by_uid.keys())
    assert touched(as1, scene, given_one, scene.look) == {part.uid}
    assert ResolvedScene(as1, scene).after(given_one)[1] == {part.uid}


def test_bounds_are_those_of_what_is_shown(as1: Assembly) -> None:
    scene = first_scene(as1, "r")
    uids = [part.uid for part in as1.parts()]
    scene, _ = apply_edit(scene, SetStates(states=dict.fromkeys(uids[:5], "hidden")), uids)
    found, points = ResolvedScene(as1, scene).bounds, model_points(as1, scene)
    assert found is not None
    np.testing.assert_allclose([found.low, found.high], [points.min(axis=0), points.max(axis=0)])
    nothing, _ = apply_edit(scene, SetStates(states=dict.fromkeys(uids, "hidden")), uids)
    assert ResolvedScene(as1, nothing).bounds is None
