"""Use cases around models on a real MariaDB: revisions, further models, pieces, attitude, tessellation, following."""

from __future__ import annotations

import io
import os
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from distributed import Client, LocalCluster

from public_files import AS1, step_file
from usual_lamp.core.appearance import SHELF
from usual_lamp.core.decals import TextDrawing
from usual_lamp.core.intake.reading import Reading
from usual_lamp.core.scene import Assign, Decal, Piece, SetDecals, SetStates
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.core.scene.sight import SightAnswer
from usual_lamp.farm.dispatcher import Dispatcher
from usual_lamp.farm.workshop import workshop
from usual_lamp.service import attitude, clean_up, decals, editing, following, intakes, models, revisions, tessellating
from usual_lamp.service.attitude import AttitudeChange, FaceOf
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.intakes import For
from usual_lamp.store.tables import IntakeRun, SightRun

BRASS = SHELF["brass-turned"]


@pytest.fixture
def dispatch(store) -> Dispatcher:
    return Dispatcher(store, client=None)  # type: ignore[arg-type]


@pytest.fixture
def tracing(store, monkeypatch) -> Iterator[Dispatcher]:
    """A dispatcher with a worker, in this process."""
    monkeypatch.setattr(workshop, "_store", store)
    with (
        LocalCluster(
            n_workers=1, threads_per_worker=1, processes=False, dashboard_address=None, resources={"trace": 1}
        ) as cluster,
        Client(cluster) as client,
    ):
        yield Dispatcher(store, client)


def part(store, review: str, name: str) -> str:
    return next(p.uid for p in editing.look_at(store, review).assembly.parts() if p.name == name)


def send(store, dispatch: Dispatcher, review: str, purpose: str, content: bytes, name: str = "as1.stp") -> str:
    run = intakes.receive(store, io.BytesIO(content), name, None, "coarse", target=For(purpose, review, "model-1"))
    assert dispatch.one_intake()
    return run


def test_a_revision_carries_everything_over_and_one_undo_brings_it_back(store, review, dispatch) -> None:
    rod, plate = part(store, review, "rod"), part(store, review, "plate")
    editing.edit(store, review, Assign(assignments={rod: BRASS.id}, define={BRASS.id: BRASS}))
    before = editing.edit(store, review, SetStates(states={plate: "suppressed"}))
    renamed = step_file(AS1).read_bytes().replace(b"'plate'", b"'base'").replace(b"'rod'", b"'shaft'")
    run = send(store, dispatch, review, "replace", renamed)
    proposal = revisions.proposal(store, run)
    assert {pair.kind for pair in proposal.pairs} == {"unchanged"} and len(proposal.pairs) == 18
    with pytest.raises(Refused, match="a review that exists"):
        intakes.accept(store, run, "By mistake")
    after = revisions.accept(store, run)
    names = {p.uid: p.name for p in after.assembly.parts()}
    assert (names[rod], names[plate]) == ("shaft", "base")
    assert after.scene.looks == before.scene.looks and after.scene.states == before.scene.states
    assert intakes.open_runs(store, review) == [] and after.seq == before.seq + 1
    undone = editing.undo(store, review)
    assert undone.scene == before.scene and undone.assembly == before.assembly
    assert {p.name for p in editing.redo(store, review).assembly.parts()} >= {"shaft", "base"}
    with pytest.raises(Refused, match="compared"):
        revisions.accept(store, run)


def test_a_decal_whose_face_is_gone_waits_and_comes_back_with_undo(store, review, dispatch) -> None:
    """The next revision is the same file in centimetres: every shape is ten times as large."""
    plate = part(store, review, "plate")
    drawing = decals.drawn(store, TextDrawing())
    lies = dict(center=(90, 75, 20), right=(1, 0, 0), up=(0, 1, 0), width=10.0, height=5.0, depth=0.5)
    label = Decal.model_validate({"name": "Label", "picture": drawing.picture, "part": plate} | lies)
    before = editing.edit(store, review, SetDecals(decals={"a": label}))
    larger = step_file(AS1).read_bytes().replace(b"SI_UNIT(.MILLI.,.METRE.)", b"SI_UNIT(.CENTI.,.METRE.)")
    run = send(store, dispatch, review, "replace", larger)
    new = next(node.uid for node in revisions.proposal(store, run).new.parts() if node.name == "plate")
    revisions.join(store, run, new, plate)
    proposal = revisions.proposal(store, run)
    ((was, found),) = proposal.decals
    assert was == label and found.fate == "lost" and proposal.partners[plate] == new
    after = revisions.accept(store, run)
    assert after.scene.decals["a"].waits
    assert editing.undo(store, review).scene == before.scene


def test_what_hangs_on_a_part_that_is_gone_is_listed_and_hands_decide(store, review, dispatch) -> None:
    rod = part(store, review, "rod")
    editing.edit(store, review, Assign(assignments={rod: BRASS.id}, define={BRASS.id: BRASS}))
    run = send(store, dispatch, review, "replace", step_file(AS1).read_bytes())
    proposal = revisions.proposal(store, run)
    new = next(pair.new for pair in proposal.pairs if pair.old == rod)
    revisions.join(store, run, new, None)
    after = revisions.proposal(store, run)
    assert after.left_behind == {rod: [f"the appearance {BRASS.name}"]}
    assert [pair.kind for pair in after.pairs if rod == pair.old] == ["gone"]
    revisions.join(store, run, new, rod)
    assert revisions.proposal(store, run).left_behind == {}
    with pytest.raises(NotFound):
        revisions.join(store, run, "nobody", None)
    intakes.stop(store, run)
    assert intakes.open_runs(store, review) == []


def test_an_intake_that_asks_waits_for_an_answer(store, dispatch) -> None:
    run = intakes.receive(
        store, io.BytesIO(step_file(AS1).read_bytes()), "as1.stp", None, "coarse", target=For(ask=True)
    )
    assert dispatch.one_intake() and intakes.get(store, run).state == "ready"
    found = intakes.found(store, run)
    rods = next(node for node in found.assembly.occurrences if node.name == "rod-assembly")
    intakes.read_again(store, run, "fine", "as written", "as written")
    with pytest.raises(Refused, match="not waiting"):
        intakes.found(store, run)
    assert dispatch.one_intake()
    finer = intakes.found(store, run)
    assert finer.assembly.chord < found.assembly.chord and finer.quality == "fine"
    intakes.read_again(store, run, "fine", "as written", "as written", Reading(chord=0.5, angle=30.0))
    assert dispatch.one_intake()
    exact = intakes.found(store, run)
    assert exact.assembly.chord == 0.5 and exact.assembly.angle == pytest.approx(np.radians(30.0))
    count = lambda a: sum(a.definition_of(p).triangles for p in a.parts())  # noqa: E731
    assert count(exact.assembly) < count(finer.assembly) and exact.reading == Reading(chord=0.5, angle=30.0)
    review = intakes.accept(store, run, "Rods only", rods.uid)
    alone = editing.look_at(store, review).assembly
    assert sorted(p.name for p in alone.parts()) == ["nut", "nut", "rod"] and len(alone.definitions) == 2
    assert np.allclose(alone.world[rods.uid], found.assembly.world[rods.uid]), "it stands where it stood"
    with pytest.raises(Refused):
        intakes.accept(store, run, "Twice")


def test_a_further_model_stands_beside_the_first(store, review, dispatch) -> None:
    run = send(store, dispatch, review, "add", step_file(AS1).read_bytes())
    now = editing.look_at(store, review)
    assert intakes.get(store, run).state == "done" and len(now.scene.models) == 2
    parts = list(now.assembly.parts())
    assert len(parts) == 36 and len({p.uid for p in parts}) == 36, "the same file twice is two models"
    other = next(key for key in now.scene.models if key != "model-1")
    edge = {m: np.concatenate([now.assembly.corners(p) for p in parts if p.model == m]) for m in now.scene.models}
    assert edge[other][:, 0].min() > edge["model-1"][:, 0].max()
    assert edge[other][:, 2].min() == pytest.approx(edge["model-1"][:, 2].min(), abs=1e-3)
    faces = AttitudeChange(
        face=FaceOf(part_of(now, other, "plate"), 0), against=FaceOf(part_of(now, "model-1", "plate"), 0)
    )
    laid = attitude.place(store, review, other, faces)
    assert laid.scene.models[other].placement != now.scene.models[other].placement
    assert len(editing.undo(store, review).scene.models) == 2 and len(editing.undo(store, review).scene.models) == 1


def part_of(now, model: str, name: str) -> str:
    return next(p.uid for p in now.assembly.parts() if p.model == model and p.name == name)


def test_pieces_take_their_place_and_another_size(store, review) -> None:
    made = models.put_piece(store, review, Piece(kind="table top", size=(600.0, 400.0, 30.0)))
    [table] = [p for p in made.assembly.parts() if p.model != "model-1"]
    others = np.concatenate([made.assembly.corners(p) for p in made.assembly.parts() if p.model == "model-1"])
    top = made.assembly.corners(table)
    assert top[:, 2].max() == pytest.approx(others[:, 2].min(), abs=1e-3)
    larger = models.put_piece(store, review, Piece(kind="table top", size=(800.0, 400.0, 30.0)), table.model)
    again = larger.assembly.corners(larger.assembly.by_uid[table.uid])
    assert np.ptp(again[:, 0]) == pytest.approx(800.0), "the same part, so what it wears stays"
    with pytest.raises(NotFound):
        models.put_piece(store, review, Piece(kind="box", size=(1, 1, 1)), "model-1")
    editing.undo(store, review)
    editing.undo(store, review)
    anew = models.put_piece(store, review, Piece(kind="box", size=(1, 1, 1)))
    assert table.model not in anew.scene.models, "what hung on a model that is gone must not come alive on another"


def test_attitude_steps_end_on_the_floor(store, review) -> None:
    start = editing.look_at(store, review)
    floor = min(start.assembly.corners(p)[:, 2].min() for p in start.assembly.parts())
    rests = attitude.rests(store, review, "model-1")
    assert rests and rests[0].down[2] == pytest.approx(-1.0), "on its plate, as it was built"
    plate = part(store, review, "plate")
    steps = [
        AttitudeChange(axis=0),
        AttitudeChange(axis=2, degrees=-90.0),
        AttitudeChange(rest=rests[1].down),
        AttitudeChange(face=FaceOf(plate, 2)),
        AttitudeChange(floor=True),
    ]
    for step in steps:
        after = attitude.place(store, review, "model-1", step)
        points = np.concatenate([after.assembly.corners(p) for p in after.assembly.parts()])
        assert points[:, 2].min() == pytest.approx(floor, abs=0.01), "it stands, neither floats nor sinks"
    assert attitude.place(store, review, "model-1", AttitudeChange(reset=True)).assembly == start.assembly
    with pytest.raises(NotFound, match="no such face"):
        attitude.place(store, review, "model-1", AttitudeChange(face=FaceOf(plate, 999)))
    with pytest.raises(Refused, match="what to do"):
        attitude.place(store, review, "model-1", AttitudeChange())


def test_a_finer_tessellation_keeps_assignments_and_can_be_undone(store, review, dispatch) -> None:
    rod = part(store, review, "rod")
    editing.edit(store, review, Assign(assignments={rod: BRASS.id}, define={BRASS.id: BRASS}))
    before = editing.look_at(store, review)
    [run] = tessellating.ask(store, review, [rod], chord=0.01, angle=5.0)
    assert dispatch.one_intake() and intakes.get(store, run).state == "done"
    after = editing.look_at(store, review)
    old, new = (now.assembly.definition_of(now.assembly.by_uid[rod]) for now in (before, after))
    assert new.triangles > 2 * old.triangles and (new.deviation or 1) < (old.deviation or 0)
    assert after.scene.looks == before.scene.looks
    changed = [key for key, d in after.assembly.definitions.items() if d != before.assembly.definitions[key]]
    assert changed == [new.key]
    with pytest.raises(Refused, match="like that already"):
        tessellating.ask(store, review, [rod], chord=0.01, angle=5.0)
    fit = tessellating.ask(store, review, [], shot=DEFAULT_SHOT)
    assert dispatch.one_intake() and intakes.get(store, fit[0]).state == "done"
    editing.undo(store, review)
    assert editing.undo(store, review).assembly == before.assembly


def test_findings_ask_once_and_the_farm_answers(store, review, tracing) -> None:
    dispatch = tracing
    assert clean_up.find(store, review).looking and not dispatch.closing.is_set()
    assert dispatch.one_sight() and not dispatch.one_sight()
    found = clean_up.find(store, review)
    assert not found.looking and "never visible" not in {finding.kind for finding in found.findings}
    editing.edit(store, review, SetStates(states={part(store, review, "plate"): "suppressed"}))
    assert clean_up.find(store, review).looking, "another arrangement is another question"
    with store.begin() as session:
        row = session.query(SightRun).filter(SightRun.state == "queued").one()
        row.state, row.attempt = "running", 7
        key = row.key
    clean_up.answer(store, key, 6, SightAnswer(never=[], not_in_shot={}))
    assert clean_up.find(store, review).looking, "an older attempt's answer is not taken"
    clean_up.answer(store, key, 7, None)
    assert not clean_up.find(store, review).looking


def test_a_followed_file_is_offered_once_it_has_settled(store, review, dispatch, tmp_path: Path, monkeypatch) -> None:
    file = tmp_path / "share" / "as1.stp"
    file.parent.mkdir()
    monkeypatch.setenv("USUAL_LAMP_FOLLOW", str(file.parent))
    file.write_bytes(step_file(AS1).read_bytes())
    following.follow(store, review, "model-1", str(file))
    following.look_round(store)
    [line] = following.followed(store, review)
    assert not line.newer and line.problem is None
    file.write_bytes(step_file(AS1).read_bytes().replace(b"'rod'", b"'axle'"))
    following.look_round(store)
    assert not following.followed(store, review)[0].newer, "it may still be being written"
    following.look_round(store)
    assert following.followed(store, review)[0].newer
    run = following.take_newer(store, review, "model-1")
    assert dispatch.one_intake()
    file.write_bytes(step_file(AS1).read_bytes().replace(b"'rod'", b"'stem'"))
    following.look_round(store)
    following.look_round(store)
    after = revisions.accept(store, run)
    assert "axle" in {p.name for p in after.assembly.parts()}
    assert following.followed(store, review)[0].newer, "it was saved once more while one looked at the comparison"
    run = following.take_newer(store, review, "model-1")
    assert dispatch.one_intake()
    assert "stem" in {p.name for p in revisions.accept(store, run).assembly.parts()}
    assert not following.followed(store, review)[0].newer
    file.unlink()
    following.look_round(store)
    assert "No such file" in (following.followed(store, review)[0].problem or "")
    following.unfollow(store, review, "model-1")
    assert following.followed(store, review) == []
    for bad, words in (
        ("as1.stp", "whole path"),
        ("/as1\0.stp", "no path"),
        (str(file.parent / "no.stp"), "No such file"),
        (str(tmp_path / "no.stp"), "only files in these folders"),
        (str(file.parent / ".." / "no.stp"), "only files in these folders"),
        ("/etc/passwd", "Only files"),
    ):
        with pytest.raises(Refused, match=words):
            following.follow(store, review, "model-1", bad)


def test_only_plain_files_in_the_folders_are_followed(store, review, tmp_path: Path, monkeypatch) -> None:
    share = tmp_path / "share"
    (share / "folder.stp").mkdir(parents=True)
    monkeypatch.setenv("USUAL_LAMP_FOLLOW", str(share))
    (tmp_path / "secret.stp").write_bytes(b"x")
    (share / "link.stp").symlink_to(tmp_path / "secret.stp")
    (share / "zero.stp").symlink_to("/dev/zero")
    os.mkfifo(share / "pipe.stp")
    for name in ("link.stp", "zero.stp", "pipe.stp", "folder.stp"):
        with pytest.raises(Refused, match=r"only files in these folders|not a plain file|directory"):
            following.follow(store, review, "model-1", str(share / name))


def test_a_model_that_left_the_review_fails_its_runs_in_words(store, review, dispatch) -> None:
    models.put_piece(store, review, Piece(kind="box", size=(10.0, 10.0, 10.0)))
    with pytest.raises(NotFound):
        send(store, dispatch, "nowhere", "add", b"x")
    run = tessellating.ask(store, review, [], quality="fine")[0]
    with store.begin() as session:
        session.get(IntakeRun, run).model = "model-9"
    assert dispatch.one_intake()
    line = intakes.get(store, run)
    assert line.state == "failed" and "not in the review any more" in (line.message or "")
