"""hypothesis: whatever is done and undone, in any order, ends where it should."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.assembly import Assembly, Occurrence, PartDefinition
from usual_lamp.core.scene import (
    Assign,
    ModelUse,
    MoveParts,
    Placement,
    SetImported,
    SetModels,
    SetStates,
    apply_edit,
    arranged,
    first_scene,
    trace_inputs,
)

UIDS = [f"p{number}" for number in range(5)]
IDENTITY = [1.0, 0, 0, 0, 0, 1.0, 0, 0, 0, 0, 1.0, 0, 0, 0, 0, 1.0]


def assembly(mesh: str, uids: list[str]) -> Assembly:
    definition = PartDefinition(
        key="d1", name="Block", mesh=mesh, shape=None, triangles=12, solids=1, volume=1.0, area=6.0,
        bounds=((0, 0, 0), (1, 1, 1)), color=(0.2, 0.4, 0.6),
    )  # fmt: skip
    nodes = [Occurrence(uid=uid, name=uid, placement=IDENTITY, definition="d1") for uid in uids]
    return Assembly(name="Blocks", chord=0.1, angle=0.3, definitions={"d1": definition}, occurrences=nodes)


REVISIONS = {"a": assembly("mesh-a", UIDS), "b": assembly("mesh-b", [*UIDS[1:], "p9"])}
BRASS = SHELF["brass-turned"]
uid = st.sampled_from(UIDS)
number = st.integers(-50, 50).map(float)
placement = st.builds(Placement, shift=st.tuples(number, number, number), turn=st.tuples(number, number, number))
cad = "cad-336699ff"


def give(uids: set[str], wear: bool) -> Assign:
    worn = BRASS.id if wear else None
    return Assign(assignments=dict.fromkeys(uids, worn), define={BRASS.id: BRASS} if wear else {})


def stand_in(value: dict[str, str | None]) -> SetImported:
    return SetImported(imported=value, define={BRASS.id: BRASS} if value.get(cad) else {})


def use(revision: str, at: Placement) -> SetModels:
    return SetModels(models={"model-1": ModelUse(name="Blocks", revision=revision, placement=at)})


edits = st.one_of(
    st.builds(SetStates, states=st.dictionaries(uid, st.sampled_from(["hidden", "suppressed", None]), min_size=1)),
    st.builds(MoveParts, moves=st.dictionaries(uid, st.none() | placement, min_size=1)),
    st.builds(give, st.sets(uid, min_size=1), st.booleans()),
    st.builds(stand_in, st.dictionaries(st.just(cad), st.sampled_from([BRASS.id, None]))),
    st.builds(use, st.sampled_from("ab"), placement),
)
steps = st.lists(st.one_of(edits, st.sampled_from(["undo", "redo"])), max_size=14)


@settings(max_examples=150, deadline=None)
@given(steps)
def test_undo_and_redo_in_any_order_walk_the_same_states(walk) -> None:
    scene = first_scene(REVISIONS["a"], "a")
    states, place, inverses = [scene], 0, []
    every = {node.uid for revision in REVISIONS.values() for node in revision.occurrences}
    for step in walk:
        if step == "undo":
            if place:
                place -= 1
                scene, inverses[place] = apply_edit(scene, inverses[place], every)
        elif step == "redo":
            if place < len(inverses):
                scene, inverses[place] = apply_edit(scene, inverses[place], every)
                place += 1
        else:
            scene, inverse = apply_edit(scene, step, every)
            states, inverses = [*states[: place + 1], scene], [*inverses[:place], inverse]
            place += 1
        assert scene == states[place]


@settings(max_examples=60, deadline=None)
@given(st.lists(edits, max_size=6))
def test_a_revision_replaced_and_undone_traces_the_same(before) -> None:
    every = {node.uid for revision in REVISIONS.values() for node in revision.occurrences}
    scene = first_scene(REVISIONS["a"], "a")
    for edit in before:
        scene, _ = apply_edit(scene, edit, every)
    replaced, back = apply_edit(
        scene, SetModels(models={"model-1": scene.models["model-1"].model_copy(update={"revision": "b"})}), every
    )
    restored, _ = apply_edit(replaced, back, every)

    def traced(scene):
        whole = arranged(scene, {"model-1": REVISIONS[scene.models["model-1"].revision]})
        try:
            return trace_inputs(whole, scene, scene.shots["shot-1"]).fingerprint()
        except ValueError:
            return "nothing shown"

    assert traced(restored) == traced(scene)
    kept = {part for part in scene.states if part in {node.uid for node in REVISIONS["b"].occurrences}}
    assert all(replaced.states[part] == scene.states[part] for part in kept), "what hangs on parts stays on them"
