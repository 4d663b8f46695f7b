"""Use cases on a real MariaDB: history, reviews, stills, intake records."""

import io

import pytest

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.scene import Assign, Lighting, Scene, SetLighting, SetShot, SetStates, Shot
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.service import editing, habits, intakes, reviews, shelf, still_files, stills
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.store.tables import IntakeRun, SceneVersion

BRASS = SHELF["brass-turned"]


def parts(store, review: str) -> list[str]:
    return [part.uid for part in editing.look_at(store, review).assembly.parts()]


def test_undo_and_redo_walk_the_history(store, review) -> None:
    first, second, third = parts(store, review)[:3]
    start = editing.look_at(store, review).scene
    editing.edit(store, review, SetStates(states={first: "hidden"}))
    editing.edit(store, review, Assign(assignments={second: BRASS.id}, define={BRASS.id: BRASS}))
    end = editing.look_at(store, review)
    assert end.undoes.words == f"Give {BRASS.name} to 1 part" and end.redoes is None
    editing.undo(store, review)
    assert editing.undo(store, review).scene == start
    with pytest.raises(Refused, match="nothing to undo"):
        editing.undo(store, review)
    editing.redo(store, review)
    assert editing.redo(store, review).scene == end.scene
    editing.undo(store, review)
    after = editing.edit(store, review, SetStates(states={third: "suppressed"}))
    assert after.redoes is None and after.scene.states == {first: "hidden", third: "suppressed"}
    with pytest.raises(Refused, match="nothing to redo"):
        editing.redo(store, review)
    with store.begin() as session:
        assert session.query(SceneVersion).count() == after.seq == 8


def test_the_history_goes_back_and_forth_by_several_at_once(store, review) -> None:
    first, second, third = parts(store, review)[:3]
    start = editing.look_at(store, review).scene
    scenes = [editing.edit(store, review, SetStates(states={uid: "hidden"})).scene for uid in (first, second, third)]
    past = editing.history(store, review)
    assert [edit.words for edit in past] == ["Hide 1 part"] * 3 and not any(edit.undone for edit in past)
    assert all(edit.made is not None for edit in past)
    newest, _, oldest = (edit.seq for edit in past)
    assert editing.undo(store, review, oldest).scene == start
    assert [edit.undone for edit in editing.history(store, review)] == [True] * 3
    with pytest.raises(Refused, match="changed meanwhile"):
        editing.undo(store, review, newest)
    assert editing.look_at(store, review).scene == start
    assert editing.redo(store, review, newest).scene == scenes[-1]
    assert editing.undo(store, review, newest).scene == scenes[1]


def test_refused_edit_changes_nothing(store, review) -> None:
    before = editing.look_at(store, review)
    with pytest.raises(Refused):
        editing.edit(store, review, SetStates(states={"nobody": "hidden"}))
    assert editing.look_at(store, review) == before


def test_reviews_copy_rename_remove_restore(store, review) -> None:
    editing.edit(store, review, SetLighting(lighting=Lighting(surroundings="overhead")))
    twin = reviews.copy(store, review)
    reviews.rename(store, twin, "  Second \n one ")
    assert editing.look_at(store, twin).scene.lighting.surroundings == "overhead"
    assert {line.name for line in reviews.list_reviews(store)} == {"as1", "Second one"}
    with pytest.raises(Refused):
        reviews.rename(store, twin, "   ")
    reviews.remove(store, twin)
    assert [line.id for line in reviews.list_reviews(store)] == [review]
    with pytest.raises(NotFound):
        editing.look_at(store, twin)
    reviews.restore(store, twin)
    assert len(reviews.list_reviews(store)) == 2


def test_new_reviews_start_like_a_shot_that_was_kept_for_that(store, review) -> None:
    """Lens, size and finish; the product is framed anew."""
    before = editing.look_at(store, review).scene.shots[DEFAULT_SHOT]
    camera = before.camera.model_copy(update={"focal_length": 50.0, "f_number": 8.0, "position": (1.0, 2.0, 3.0)})
    kept = before.model_copy(
        update={"camera": camera, "width": 1920, "height": 1080, "tone": "filmic", "contrast": 1.1}
    )
    editing.edit(store, review, SetShot(id=DEFAULT_SHOT, shot=kept))
    habits.start_like(store, review, DEFAULT_SHOT)

    def first() -> Shot:
        found = editing.look_at(store, review)
        with store.begin() as session:
            revision = next(iter(found.scene.models.values())).revision
            made = reviews.make_review(session, "Next", revision, found.assembly)
            return Scene.model_validate_json(made.scene).shots[DEFAULT_SHOT]

    shot = first()
    assert shot.finish == kept.finish and (shot.width, shot.height) == (1920, 1080)
    assert (shot.camera.focal_length, shot.camera.f_number) == (50.0, 8.0)
    assert shot.camera.position != camera.position
    habits.start_as_shipped(store)
    assert habits.start(store) is None and first() == before


def test_still_knows_when_it_is_out_of_date(store, review) -> None:
    still = stills.take(store, review, DEFAULT_SHOT, "coarse", (64, 48))
    (line,) = stills.list_stills(store, review)
    assert line.id == still and line.current and line.state == "queued" and line.samples == 16
    uid = parts(store, review)[0]
    editing.edit(store, review, SetStates(states={uid: "hidden"}))
    assert not stills.list_stills(store, review)[0].current
    editing.undo(store, review)
    assert stills.list_stills(store, review)[0].current
    shot = editing.look_at(store, review).scene.shots[DEFAULT_SHOT]
    editing.edit(store, review, SetShot(id=DEFAULT_SHOT, shot=shot.model_copy(update={"exposure": 10.0})))
    assert not stills.list_stills(store, review)[0].current


def test_still_moves(store, review) -> None:
    still = stills.take(store, review, DEFAULT_SHOT, "coarse", (64, 48))
    for step, state in (("pause", "paused"), ("resume", "queued"), ("stop", "stopped"), ("resume", "queued")):
        stills.move(store, still, step)
        assert stills.list_stills(store, review)[0].state == state
    stills.move(store, still, "pause")
    with pytest.raises(Refused, match="paused cannot be told to pause"):
        stills.move(store, still, "pause")
    stills.set_removed(store, still, True)
    assert stills.list_stills(store, review) == []
    stills.set_removed(store, still, False)
    assert stills.list_stills(store, review)[0].state == "stopped"
    with pytest.raises(NotFound):
        still_files.file_of(store, still)


def test_nothing_shown_gives_no_still(store, review) -> None:
    editing.edit(store, review, SetStates(states=dict.fromkeys(parts(store, review), "hidden")))
    with pytest.raises(Refused, match="Nothing is shown"):
        stills.take(store, review, DEFAULT_SHOT, "coarse")


def test_unknown_format_is_refused_before_it_is_stored(store) -> None:
    with pytest.raises(Refused, match="Use STEP"):
        intakes.receive(store, io.BytesIO(b"x"), "../evil.exe", None, "fair")
    run = intakes.receive(store, io.BytesIO(b"x"), "C:\\cad\\pump.stp", None, "fair")
    assert intakes.get(store, run).file_name == "pump.stp" and intakes.get(store, run).name == "pump"


def test_intake_of_a_stopped_run_stores_nothing(store, as1) -> None:
    run = intakes.receive(store, io.BytesIO(b"x"), "a.stp", None, "fair")
    with store.begin() as session:
        session.get(IntakeRun, run).state = "running"
    intakes.stop(store, run)
    assert intakes.keep(store, run, 0, as1) is None
    assert reviews.list_reviews(store) == []


def test_plates_are_kept_by_what_they_show(store) -> None:
    assert set(shelf.plates(store, SHELF).values()) == {None}
    renamed = BRASS.model_copy(update={"name": "Other name"})
    assert [one.key for one in shelf.plates_of(renamed)] == [one.key for one in shelf.plates_of(BRASS)]
    shelf.keep_plate(store, shelf.plates_of(BRASS)[0].key, b"png")
    assert shelf.plates(store, SHELF)[BRASS.id] is not None
