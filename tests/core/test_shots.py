"""Shots: many of them, in order, locked, and with parts that one alone does not show."""

from __future__ import annotations

import pytest

from core.test_scene_history import UIDS, assembly
from usual_lamp.core.scene import EditRefused, Scene, SetShot, SetShots, Shot, apply_edit, first_scene, trace_inputs
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.core.scene.shot import MOST_SHOTS

BLOCKS = assembly("mesh-a", UIDS)


def scene() -> Scene:
    return first_scene(BLOCKS, "a")


def changed(shot: Shot, **change: object) -> Shot:
    return shot.model_copy(update=change)


def test_shots_are_added_reordered_and_removed_and_all_of_it_is_undone() -> None:
    before = scene()
    first = before.shots[DEFAULT_SHOT]
    two, back = apply_edit(before, SetShots(shots={"b": changed(first, name="Close", place=9)}), UIDS)
    assert two.ordered_shots() == [DEFAULT_SHOT, "b"]
    assert back.words(two) == "Remove the shot “Close”"
    moved, _ = apply_edit(two, SetShots(shots={DEFAULT_SHOT: changed(first, place=10)}), UIDS)
    assert moved.ordered_shots() == ["b", DEFAULT_SHOT]
    gone, again = apply_edit(moved, SetShots(shots={DEFAULT_SHOT: None}), UIDS)
    assert list(gone.shots) == ["b"]
    assert apply_edit(gone, again, UIDS)[0].shots == moved.shots
    assert apply_edit(two, back, UIDS)[0] == before


def test_a_review_keeps_a_shot_and_not_too_many() -> None:
    before = scene()
    first = before.shots[DEFAULT_SHOT]
    with pytest.raises(EditRefused, match="at least one shot"):
        apply_edit(before, SetShots(shots={DEFAULT_SHOT: None}), UIDS)
    with pytest.raises(EditRefused, match=f"at most {MOST_SHOTS}"):
        apply_edit(before, SetShots(shots={f"s{k}": first for k in range(MOST_SHOTS)}), UIDS)
    with pytest.raises(EditRefused, match="name"):
        apply_edit(before, SetShots(shots={"b": changed(first, name=" ")}), UIDS)
    with pytest.raises(EditRefused, match="lighting"):
        apply_edit(before, SetShots(shots={"b": changed(first, lighting="gone")}), UIDS)


def test_a_locked_shot_is_changed_in_nothing_but_name_place_and_lock() -> None:
    before = scene()
    locked = changed(before.shots[DEFAULT_SHOT], locked=True)
    held, unlock = apply_edit(before, SetShot(id=DEFAULT_SHOT, shot=locked), UIDS)
    for change in ({"exposure": 3.0}, {"width": 640}, {"hidden": frozenset({"p1"})}):
        with pytest.raises(EditRefused, match="locked"):
            apply_edit(held, SetShot(id=DEFAULT_SHOT, shot=changed(locked, **change)), UIDS)
    renamed = changed(locked, name="Front", place=3)
    assert apply_edit(held, SetShot(id=DEFAULT_SHOT, shot=renamed), UIDS)[0].shots[DEFAULT_SHOT] == renamed
    more, _ = apply_edit(held, SetShots(shots={"b": locked}), UIDS)
    with pytest.raises(EditRefused, match="locked"):
        apply_edit(more, SetShots(shots={DEFAULT_SHOT: None}), UIDS)
    assert unlock.words(held) == "Unlock the shot “Front, three-quarter”"
    assert apply_edit(held, unlock, UIDS)[0] == before


def test_a_shot_may_hide_parts_that_others_show() -> None:
    """Light, floor and distances stay as they are with all parts; the other shot has them all."""
    before = scene()
    first = before.shots[DEFAULT_SHOT]
    one = changed(first, hidden=frozenset({"p1", "p3"}))
    whole, less = trace_inputs(BLOCKS, before, first), trace_inputs(BLOCKS, before, one)
    assert (len(whole.parts), len(less.parts)) == (5, 3)
    assert less.model_copy(update={"parts": whole.parts}) == whole
    with pytest.raises(ValueError, match="This shot shows no part"):
        trace_inputs(BLOCKS, before, changed(first, hidden=frozenset(UIDS)))
