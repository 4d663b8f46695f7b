"""Where appearances apply: one order of levels, rules, whole looks, and replacing everywhere."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from public_files import AS1, step_file
from usual_lamp.core.appearance import SHELF
from usual_lamp.core.intake import take_in
from usual_lamp.core.scene import (
    Assign,
    ChangeAppearance,
    EditRefused,
    Look,
    ReplaceAppearance,
    Resolver,
    Rule,
    SetImported,
    SetLooks,
    SetRules,
    apply_edit,
    first_scene,
)
from usual_lamp.core.scene.filter_words import FilterProblem
from usual_lamp.core.scene.part_facts import matching

IDS = ["steel-machined", "brass-turned", "abs-graphite", "gold-plated", "copper-bare", "chrome-plated"]
DEFINE = {name: SHELF[name] for name in IDS}
FACE, PART, SAME, RULE, GROUP, MODEL = IDS


@pytest.fixture(scope="module")
def as1(tmp_path_factory):
    return take_in(step_file(AS1), tmp_path_factory.mktemp("as1"), name="as1", quality="coarse").assembly


@pytest.fixture
def scene(as1):
    return first_scene(as1, "r")


def made(scene, as1, *edits):
    for edit in edits:
        scene, _ = apply_edit(scene, edit, as1.by_uid.keys())
    return scene


def assign(**keys: str | None) -> Assign:
    return Assign(assignments=keys, define=DEFINE)


def bolt(as1):
    return next(part for part in as1.parts() if part.name == "bolt")


def everything(as1, part) -> dict[str, str]:
    """A bolt with something at every level that hands can give."""
    inner, outer = [node.uid for node in as1.ancestors(part.uid)][:2]
    signature = as1.definition_of(part).faces[2].signature
    keys = {f"{part.uid}#{signature}": FACE, part.uid: PART, f"={part.uid}": SAME}
    return keys | {inner: GROUP, outer: "brass-turned", part.model: MODEL}


def test_the_order_of_levels(as1, scene) -> None:
    """face > part > same part > rule > sub-assembly, inner to outer > model > CAD."""
    part = bolt(as1)
    keys = everything(as1, part)
    rule = Rule(id="r1", filter="bolt", appearance=RULE)
    scene = made(scene, as1, Assign(assignments=keys, define=DEFINE), SetRules(rules=(rule,)))
    found = Resolver(as1, scene).resolve(part)
    assert [layer.why for layer in found.layers] == [
        "part", "same part", "rule", "sub-assembly", "sub-assembly", "model", "from CAD",
    ]  # fmt: skip
    assert found.faces == {2: SHELF[FACE]} and found.own_faces[0][1].why == "face"
    # Lifting the top one shows the next, down to what CAD gave.
    whys = []
    for layer in found.layers[:-1]:
        whys.append(Resolver(as1, scene).resolve(part).why)
        scene = (
            made(scene, as1, SetRules(rules=()))
            if layer.why == "rule"
            else made(scene, as1, Assign(assignments={layer.key: None}))
        )
    assert whys == [layer.why for layer in found.layers[:-1]]
    bare = Resolver(as1, scene).resolve(part)
    assert bare.why == "from CAD" and bare.faces == {2: SHELF[FACE]}, "a face's own finish survives under every coat"


def test_a_base_coat_defeats_no_rule_and_a_rule_no_hand(as1, scene) -> None:
    nuts = [part for part in as1.parts() if part.name == "nut"]
    rule = Rule(id="r1", filter="name:nut", appearance=RULE)
    scene = made(scene, as1, SetRules(rules=(rule,), define=DEFINE), assign(**{nuts[0].uid: PART, "model-1": MODEL}))
    worn = {part.uid: Resolver(as1, scene).resolve(part) for part in as1.parts()}
    assert worn[nuts[0].uid].why == "part" and {worn[n.uid].why for n in nuts[1:]} == {"rule"}
    others = [found for uid, found in worn.items() if uid not in {n.uid for n in nuts}]
    assert {found.why for found in others} == {"model"} and len(others) == 10


def test_the_higher_rule_wins_and_may_be_off_or_for_faces(as1, scene) -> None:
    part = bolt(as1)
    rules = (
        Rule(id="a", filter="size<1", appearance=PART),
        Rule(id="b", filter="bolt", appearance=SAME, surface="plane"),
        Rule(id="c", filter="part:bolt", appearance=RULE),
        Rule(id="d", filter="bolt", appearance=MODEL, surface="cylinder"),
    )
    scene = made(scene, as1, SetRules(rules=rules, define=DEFINE))
    found = Resolver(as1, scene).resolve(part)
    kinds = [face.kind for face in as1.definition_of(part).faces]
    assert found.why == "rule" and found.appearance == SHELF[RULE]
    assert found.faces == {i: SHELF[SAME] for i, kind in enumerate(kinds) if kind == "plane"}, "d lies beneath c"
    off = tuple(rule.model_copy(update={"on": rule.id != "c"}) for rule in rules)
    found = Resolver(as1, made(scene, as1, SetRules(rules=off))).resolve(part)
    assert found.why == "from CAD" and {found.faces[i] for i, k in enumerate(kinds) if k == "cylinder"} == {
        SHELF[MODEL]
    }
    by_hand = made(scene, as1, assign(**{f"={part.uid}": PART}))
    found = Resolver(as1, by_hand).resolve(next(p for p in as1.parts() if p.name == "bolt" and p.uid != part.uid))
    assert found.why == "same part" and found.faces == {}


def test_rules_know_fields_but_not_what_is_worn(as1) -> None:
    assert len(matching(as1, "name:bolt")) == 6 and len(matching(as1, "surface:cylinder -plate")) == 17
    for text, words in (("appearance:steel", "no part has"), ("  ", "needs words"), ("size<much", "no number")):
        with pytest.raises(FilterProblem, match=f"(?i){words}"):
            matching(as1, text)
    assert matching(as1, "name:bolt") is matching(as1, "name:bolt"), "worked out once"


def test_replacing_everywhere_and_back(as1, scene) -> None:
    part = bolt(as1)
    cad = Resolver(as1, scene).resolve(part).appearance.id
    before = made(
        scene, as1, assign(**{part.uid: PART, "model-1": PART}),
        SetRules(rules=(Rule(id="r", filter="name:nut", appearance=PART),)),
        SetImported(imported={cad: PART}),
        SetLooks(looks={"dark": Look(name="Dark", assignments={part.uid: PART})}),
    )  # fmt: skip
    after, back = apply_edit(before, ReplaceAppearance(old=PART, new=SHELF["abs-light"]), as1.by_uid.keys())
    assert PART not in {*after.looks["standard"].assignments.values(), *after.looks["dark"].assignments.values()}
    assert after.looks["standard"].rules[0].appearance == "abs-light" and after.imported == {cad: "abs-light"}
    assert made(after, as1, back) == before
    with pytest.raises(EditRefused, match="not in use"):
        made(after, as1, ReplaceAppearance(old=PART, new=SHELF["abs-light"]))


def test_looks_are_copied_shown_and_removed(as1, scene) -> None:
    part = bolt(as1)
    scene = made(scene, as1, assign(**{part.uid: PART}))
    copy = scene.looks["standard"].model_copy(update={"name": "Dark", "assignments": {part.uid: MODEL}})
    scene = made(scene, as1, SetLooks(looks={"dark": copy}, show="dark"))
    assert Resolver(as1, scene).resolve(part).appearance == SHELF[MODEL]
    assert Resolver(as1, scene, "standard").resolve(part).appearance == SHELF[PART]
    with pytest.raises(EditRefused, match="Show another"):
        made(scene, as1, SetLooks(looks={"dark": None}))
    gone = made(scene, as1, SetLooks(looks={"dark": None}, show="standard"))
    assert set(gone.looks) == {"standard"}
    with pytest.raises(EditRefused):
        made(gone, as1, SetLooks(looks={"standard": None}, show="standard"))
    unused = made(gone, as1, SetLooks(define=dict.fromkeys(gone.appearances)))
    assert set(unused.appearances) == {PART}, "what is worn stays"


def test_wrong_keys_are_refused(as1, scene) -> None:
    for key in ("nobody", "=nobody", "nobody#00", "model-9"):
        with pytest.raises(EditRefused):
            made(scene, as1, assign(**{key: PART}))
    with pytest.raises(EditRefused, match="same id"):
        twice = (Rule(id="a", filter="x", appearance=PART),) * 2
        made(scene, as1, SetRules(rules=twice, define=DEFINE))
    with pytest.raises(EditRefused, match="not in this review"):
        made(scene, as1, SetRules(rules=(Rule(id="a", filter="x", appearance="nothing"),)))


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 6), st.sampled_from([*IDS, None]), st.integers(0, 5)), max_size=12))
def test_every_edit_is_undone_by_its_inverse(as1, steps) -> None:
    """Any mix of giving at all levels, rules, looks and replacing, taken back in turn, leaves the first scene."""
    keys = list(everything(as1, bolt(as1)))
    scene = first_scene(as1, "r")
    trail = []
    for where, name, how in steps:
        edit = (
            Assign(assignments={keys[where % len(keys)]: name}, define=DEFINE),
            SetRules(rules=(Rule(id="r", filter="nut", appearance=name),) if name else (), define=DEFINE),
            SetLooks(looks={f"look-{where}": Look(name="L") if name else None}),
            ReplaceAppearance(old=name or PART, new=SHELF["abs-light"]),
            ChangeAppearance(appearance=SHELF[name or PART].model_copy(update={"name": "Changed"})),
            SetLooks(define={name or PART: None}),
        )[how]
        try:
            after, back = apply_edit(scene, edit, as1.by_uid.keys())
        except EditRefused:
            continue
        trail.append((scene, back))
        scene = after
    for before, back in reversed(trail):
        scene, _ = apply_edit(scene, back, as1.by_uid.keys())
        assert scene == before
