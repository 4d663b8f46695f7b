"""Which part of a new revision is which of the old: copies renamed, reordered, moved, changed, mirrored."""

from __future__ import annotations

import numpy as np
import pytest

from usual_lamp.core.assembly import Assembly, Face, Occurrence, PartDefinition
from usual_lamp.core.assembly.likeness import alike, congruent, shape_of
from usual_lamp.core.assembly.matching import carried_uids, joined, match
from usual_lamp.core.intake import IntakeResult


def rewritten(assembly: Assembly, seed: int, rename: bool = True) -> tuple[Assembly, dict[str, str]]:
    """A copy with other uids, names and order, as another exporter may write it; and the true uids."""
    random = np.random.default_rng(seed)
    truth = {node.uid: f"n{number}" for number, node in enumerate(random.permutation(assembly.occurrences))}
    nodes, waiting = [], list(random.permutation(assembly.occurrences))
    while waiting:  # parents before children, otherwise in any order
        ready = [node for node in waiting if node.parent is None or node.parent in {n.uid for n in nodes}]
        nodes += ready
        waiting = [node for node in waiting if node not in ready]
    made = assembly.model_copy(update={"occurrences": nodes}).renamed(truth)
    if rename:
        called = [n.model_copy(update={"name": f"item {number}"}) for number, n in enumerate(made.occurrences)]
        made = made.model_copy(update={"occurrences": called})
    return made, truth


@pytest.mark.parametrize("rename", [True, False])
def test_a_copy_matches_fully_however_it_is_written(as1: IntakeResult, rename: bool) -> None:
    copy, truth = rewritten(as1.assembly, 3, rename)
    pairs = match(as1.assembly, copy)
    assert {pair.kind for pair in pairs} == {"unchanged"} and len(pairs) == 18
    assert all(truth[pair.old] == pair.new for pair in pairs)
    uids = carried_uids(as1.assembly, copy, pairs, "salt")
    assert {uids[new] for new in truth.values()} == set(truth), "sub-assemblies too are whom they were"


def test_moved_new_and_gone_are_told_apart(as1: IntakeResult) -> None:
    parts = list(as1.assembly.parts())
    rod = next(part for part in parts if part.name == "rod")
    plate = next(part for part in parts if part.name == "plate")
    shifted = list(rod.placement)
    shifted[3] += 40.0
    nodes = [n.model_copy(update={"placement": shifted}) if n.uid == rod.uid else n for n in as1.assembly.occurrences]
    nodes = [n for n in nodes if n.uid != plate.uid]
    another = parts[0].model_copy(update={"uid": "more", "parent": None, "name": "one more"})
    new = as1.assembly.model_copy(update={"occurrences": [*nodes, another]})
    kinds = {(pair.old, pair.kind) for pair in match(as1.assembly, new) if pair.kind != "unchanged"}
    assert kinds == {(rod.uid, "moved"), (plate.uid, "gone"), (None, "new")}
    both = (as1.assembly, new)
    apart = joined(*both, match(*both), rod.uid, None)
    again = joined(*both, apart, rod.uid, rod.uid)
    kind_of = {pair.new: pair.kind for pair in joined(*both, again, "more", plate.uid) if pair.by_hand}
    assert kind_of == {rod.uid: "moved", "more": "changed shape"}, "what is the same by word may still have changed"


def test_hands_words_overrule(as1: IntakeResult) -> None:
    copy, truth = rewritten(as1.assembly, 5, rename=False)
    pairs = match(as1.assembly, copy)
    one, two = (part.uid for part in list(as1.assembly.parts())[:2])
    both = (as1.assembly, copy)
    split = joined(*both, pairs, truth[one], None)
    assert [p.old for p in split if p.kind == "gone"] == [one] and next(p for p in split if p.new == truth[one]).by_hand
    swapped = joined(*both, split, truth[one], two)
    found = {p.new: p.old for p in swapped if p.new}
    assert found[truth[one]] == two and found[truth[two]] is None, "whoever had it before is left single"
    uids = carried_uids(as1.assembly, copy, swapped, "salt")
    assert uids[truth[one]] == two and uids[truth[two]] not in as1.assembly.by_uid
    with pytest.raises(KeyError):
        joined(*both, pairs, "nobody", None)


def block(points: np.ndarray, areas: list[float], volume: float, name: str = "block") -> PartDefinition:
    """A definition that is only what matching looks at: faces by area and centre."""
    faces = [
        Face(kind="plane", signature=f"{hash((area, *point)):x}", area=area, center=tuple(point))
        for area, point in zip(areas, points.tolist(), strict=True)
    ]
    bounds = (tuple(points.min(axis=0)), tuple(points.max(axis=0)))
    return PartDefinition(
        key="d1", name=name, mesh="m", shape=None, triangles=1, solids=1, volume=volume, area=sum(areas), bounds=bounds,
        faces=faces,
    )  # fmt: skip


def test_shapes_are_alike_under_rigid_motion_but_not_in_a_mirror() -> None:
    random = np.random.default_rng(2)
    points, areas = random.normal(size=(9, 3)) * 20, list(random.uniform(10, 200, 9))
    turn = np.linalg.qr(random.normal(size=(3, 3)))[0]
    turn *= np.sign(np.linalg.det(turn))
    original = shape_of(block(points, areas, 5000.0))
    moved = shape_of(block(points @ turn.T + [3.0, 50.0, -7.0], areas, 5000.0))
    mirrored = shape_of(block(points * [-1, 1, 1], areas, 5000.0))
    larger = shape_of(block(points * 1.01, [a * 1.01**2 for a in areas], 5000.0 * 1.01**3))
    assert congruent(original, moved) and not congruent(original, mirrored) and not congruent(original, larger)
    assert alike(original, moved) == 1.0 and 0.0 < alike(original, shape_of(block(points[:4], areas[:4], 90.0))) < 0.8


def test_a_sub_assembly_follows_its_parts_and_two_of_the_same_name_stay_apart(as1: IntakeResult) -> None:
    brackets = [n for n in as1.assembly.occurrences if n.name == "l-bracket-assembly"]
    assert len(brackets) == 2
    copy, truth = rewritten(as1.assembly, 8, rename=False)
    uids = carried_uids(as1.assembly, copy, match(as1.assembly, copy), "salt")
    assert [uids[truth[node.uid]] for node in brackets] == [node.uid for node in brackets]


def test_an_empty_side_is_all_new_or_all_gone(as1: IntakeResult) -> None:
    lone = next(as1.assembly.parts()).model_copy(update={"parent": None})
    other = lone.model_copy(update={"definition": "x"})
    definition = block(np.eye(3), [1.0, 2.0, 3.0], 0.5).model_copy(update={"key": "x", "name": "odd"})
    renamed = Occurrence(uid="odd", name="odd", placement=other.placement, definition="x")
    strange = as1.assembly.model_copy(update={"occurrences": [renamed], "definitions": {"x": definition}})
    kinds = [pair.kind for pair in match(as1.assembly, strange)]
    assert kinds == ["new"] + ["gone"] * 18
