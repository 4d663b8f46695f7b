"""Work in its order: claims, leases, intakes that end well or badly, stills that fail with a sentence."""

from __future__ import annotations

import time
from datetime import timedelta

import pytest

from public_files import AS1, step_file
from usual_lamp.core.appearance import Appearance, OpenPBR
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.farm import dispatcher
from usual_lamp.farm.dispatcher import LANES, Dispatcher, mark_failed, next_still
from usual_lamp.farm.leases import MOST_ATTEMPTS, claim, queues_with_work, release_all
from usual_lamp.farm.still_run import StillRun
from usual_lamp.service import intakes, reviews, shelf, stills
from usual_lamp.store import DatabaseAway
from usual_lamp.store.tables import IntakeRun, Review, Still, utc_now

SIZE = (64, 64)


@pytest.fixture
def dispatch(store) -> Dispatcher:
    return Dispatcher(store, client=None)  # type: ignore[arg-type]


def receive(store, content: bytes, name: str = "as1.stp") -> str:
    import io

    return intakes.receive(store, io.BytesIO(content), name, None, "coarse")


def test_covers_come_last_and_the_oldest_still_first(store, review) -> None:
    cover = stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE, cover=True)
    first = stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE)
    second = stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE)
    assert [next_still(store).id for _ in range(3)] == [first, second, cover]
    assert next_still(store) is None


def test_work_for_a_removed_review_waits_until_it_is_back(store, review) -> None:
    still = stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE)
    reviews.remove(store, review)
    assert next_still(store) is None
    reviews.restore(store, review)
    assert next_still(store).id == still


def test_what_ends_the_program_each_time_is_given_up(store, review) -> None:
    run = receive(store, step_file(AS1).read_bytes())
    with store.begin() as session:
        session.get(IntakeRun, run).attempt = MOST_ATTEMPTS[IntakeRun]
    with store.begin() as session:
        assert claim(session, IntakeRun) is None
    assert intakes.get(store, run).state == "failed" and "again and again" in intakes.get(store, run).message


def test_only_queues_with_work_are_woken(store, review) -> None:
    assert queues_with_work(store) == set()
    receive(store, step_file(AS1).read_bytes())
    stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE)
    assert queues_with_work(store) == {IntakeRun, Still}
    next_still(store)
    assert queues_with_work(store) == {IntakeRun}


def test_small_files_have_a_lane_of_their_own(store) -> None:
    large = receive(store, step_file(AS1).read_bytes() + b" " * dispatcher.SMALL_FILE)
    small = receive(store, step_file(AS1).read_bytes())
    with store.begin() as session:
        assert claim(session, IntakeRun, where=LANES["small"][1]).id == small
        assert claim(session, IntakeRun, where=LANES["small"][1]) is None
        assert claim(session, IntakeRun, where=LANES["any"][1]).id == large


def test_an_expired_lease_is_taken_over_and_the_older_attempt_fenced(store, review) -> None:
    stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE)
    old = next_still(store)
    with store.begin() as session:
        session.get(Still, old.id).lease = utc_now() - timedelta(seconds=1)
    new = next_still(store)
    assert (new.id, new.attempt) == (old.id, old.attempt + 1)
    mark_failed(store, old, "too late")
    with store.begin() as session:
        assert session.get(Still, new.id).state == "running"
    mark_failed(store, new, "the moon was in the way")
    (line,) = stills.list_stills(store, review)
    assert (line.state, line.message) == ("failed", "the moon was in the way")
    stills.move(store, line.id, "resume")
    assert next_still(store).attempt == new.attempt + 1


def test_an_intake_becomes_a_review_with_its_cover_queued(store, dispatch) -> None:
    run = receive(store, step_file(AS1).read_bytes())
    assert dispatch.one_intake() and not dispatch.one_intake()
    line = intakes.get(store, run)
    assert line.state == "done" and line.progress == 1.0
    (made,) = reviews.list_reviews(store)
    assert (made.id, made.name, made.stills) == (line.review_id, "as1", 0)
    assert next_still(store).is_cover


def test_a_bad_file_fails_with_a_sentence_and_can_be_put_away(store, dispatch) -> None:
    run = receive(store, b"ISO-10303-21; and then nothing")
    assert dispatch.one_intake()
    line = intakes.get(store, run)
    assert line.state == "failed" and "cut off" in line.message
    assert reviews.list_reviews(store) == [] and [r.id for r in intakes.open_runs(store)] == [run]
    intakes.stop(store, run)
    assert intakes.open_runs(store) == []


def test_a_fault_of_ours_is_said_and_the_loop_lives_on(store, dispatch, monkeypatch) -> None:
    def broken(*_: object) -> None:
        raise ZeroDivisionError("by chance")

    run = receive(store, step_file(AS1).read_bytes())
    monkeypatch.setattr(dispatcher, "run_intake", broken)
    assert dispatch.one_intake()
    line = intakes.get(store, run)
    assert line.state == "failed" and "a reason of ours" in line.message and "by chance" not in line.message


def test_a_database_that_is_away_costs_nobody_their_import(store, dispatch, monkeypatch) -> None:
    def away(*_: object) -> None:
        raise DatabaseAway("The database is starting again.")

    run = receive(store, step_file(AS1).read_bytes())
    monkeypatch.setattr(dispatcher, "run_intake", away)
    assert dispatch.one_intake()
    assert intakes.get(store, run).state == "queued", "it waits again, and is no failure"


def test_a_still_that_breaks_is_marked_and_the_next_one_runs(store, dispatch, review, monkeypatch) -> None:
    def broken(_: StillRun) -> None:
        raise MemoryError("no room")

    stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE)
    monkeypatch.setattr(StillRun, "run", broken)
    assert dispatch.one_still()
    (line,) = stills.list_stills(store, review)
    assert line.state == "failed" and "no room" in line.message and "Resume" in line.message


def test_what_a_dead_dispatcher_had_in_hand_waits_again(store, review) -> None:
    stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE)
    receive(store, step_file(AS1).read_bytes())
    with store.begin() as session:
        assert claim(session, Still) and claim(session, IntakeRun)
    release_all(store)
    with store.begin() as session:
        assert claim(session, Still).attempt == 2 and claim(session, IntakeRun).attempt == 2


def test_open_desks_hear_of_new_plates(store, review) -> None:
    with store.begin() as session:
        before = session.get(Review, review).pulse
    dispatcher.touch_all(store)
    with store.begin() as session:
        assert session.get(Review, review).pulse == before + 1


class Tracing:
    """Stands in for the farm: keeps what it was asked for, and has it at once."""

    def __init__(self) -> None:
        self.asked: list[tuple[int, int]] = []

    def submit(self, _: object, sample: str, size: int, samples: int, **__: object) -> Tracing:
        self.asked.append((size, samples))
        return self

    def result(self, timeout: float) -> bytes:
        return b"a plate"


def test_fine_plates_wait_until_nobody_works(store, review, monkeypatch) -> None:
    farm = Tracing()
    traced = Dispatcher(store, client=farm)  # type: ignore[arg-type]
    monkeypatch.setattr(dispatcher, "tracers", lambda _: 1)
    shelf.keep(store, Appearance(id="own", name="Own", family="paint", params=OpenPBR(base_color=(0.1, 0.2, 0.3))))
    assert traced.one_plate() and farm.asked == [], "those of our own samples came with the program"
    assert list(shelf.plates(store, shelf.samples(store)).values()).count(None) == 1
    while traced.one_plate():
        assert len(farm.asked) <= 1
    assert farm.asked == [(shelf.COARSE_PLATE, dispatcher.COARSE_SAMPLES)]
    with store.begin() as session:
        found = session.get(Review, review)
        found.updated, found.removed = utc_now() - dispatcher.QUIET / 2, utc_now()
    assert not traced.one_plate(), "whoever has just removed it is at work"
    with store.begin() as session:
        session.get(Review, review).updated = utc_now() - dispatcher.QUIET
    monkeypatch.setattr(traced.others, "look", lambda: None)
    traced.others.share, traced.fine_plate_begun = 0.9, time.monotonic()
    assert not traced.one_plate(), "the machine is busy with something else"
    traced.others.share = 0.1
    assert traced.one_plate()
    assert farm.asked[-1] == (shelf.LARGEST_PLATE, dispatcher.PLATE_SAMPLES)
