"""When a still is done: by its noise, by its time, or because it is told to be finished."""

import numpy as np
import pytest

from farm.finished import SIZE, interrupt, next_still, pixels_of
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.core.trace.jobs.grain import GrainMeter
from usual_lamp.farm import still_run
from usual_lamp.farm.asking import Lost
from usual_lamp.farm.ending import FIRST_VERDICT, Ending
from usual_lamp.farm.leases import release_all
from usual_lamp.farm.still_run import StillRun
from usual_lamp.farm.workshop import workshop
from usual_lamp.service import still_light, stills
from usual_lamp.service.errors import Refused
from usual_lamp.store.tables import Still


def test_a_still_by_its_grain_ends_when_it_is_reached(store, client, review, monkeypatch) -> None:
    monkeypatch.setattr(workshop, "_store", store)
    workshop.worlds.clear()
    id = stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE, grain=0.06)
    interrupted = next_still(store)
    rounds = []
    with pytest.raises(Lost):
        StillRun(store, client, interrupted, lambda: rounds.append(1) or len(rounds) > 9).run()
    release_all(store)
    again = next_still(store)
    assert len(again.readings) > 2, "what the meter read is not lost"
    StillRun(store, client, again, lambda: False).run()
    (line,) = stills.list_stills(store, review)
    assert line.id == id and line.state == "done" and line.dropped == 0
    assert line.grain <= 0.06 and line.samples == line.samples_done >= FIRST_VERDICT
    # Twice the grain takes about a quarter of the samples, so it was not traced for much longer than needed.
    assert line.grain > 0.03


def test_a_still_by_its_time_ends_when_that_is_up(store, client, review, monkeypatch) -> None:
    monkeypatch.setattr(workshop, "_store", store)
    workshop.worlds.clear()
    id = stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE, minutes=2.0)
    with store.begin() as session:
        session.get(Still, id).seconds = 1e4  # as if it had been traced for hours
    StillRun(store, client, next_still(store), lambda: False).run()
    (line,) = stills.list_stills(store, review)
    assert line.state == "done" and line.minutes_asked == 2.0
    assert 0 < line.samples == line.samples_done < 16, "each tile has something, and no more"


def test_what_is_under_way_when_a_still_ends_is_taken(store, client, review, monkeypatch) -> None:
    """Units cannot be called back: one that is kept later must not meet the order to keep less."""
    monkeypatch.setattr(workshop, "_store", store)
    monkeypatch.setattr(still_run, "AT_RISK", 0.0)
    workshop.worlds.clear()
    stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE, minutes=2.0)
    with store.begin() as session:
        session.query(Still).one().seconds = 1e4
    run = StillRun(store, client, next_still(store), lambda: False)
    under_way: list[int] = []
    finish = run._finish
    monkeypatch.setattr(run, "_finish", lambda: (under_way.append(len(run.pending)), finish())[1])
    run.run()
    assert under_way[0] > 0 and not run.pending
    (line,) = stills.list_stills(store, review)
    assert line.state == "done" and line.samples == int(run.counts.min())


def test_a_still_is_finished_now_and_traced_on_later(store, client, still) -> None:
    """While it is traced; and from a pause, before each tile has something."""
    told: list[None] = []

    def once_one_tile_is_there() -> bool:
        if not told:
            told.append(stills.end_now(store, still.id))
        return False

    StillRun(store, client, still, once_one_tile_is_there).run()
    (line,) = stills.list_stills(store, still.review_id)
    assert line.state == "done" and line.ends_now and 2 <= line.samples == line.samples_done < 16
    assert pixels_of(store, still.id).std() > 1
    with pytest.raises(Refused, match="done"):
        stills.end_now(store, still.id)
    still_light.go_on(store, still.id, "coarse")
    StillRun(store, client, next_still(store), lambda: False).run()
    (line,) = stills.list_stills(store, still.review_id)
    assert (line.state, line.samples, line.ends_now) == ("done", 16, False)
    other = stills.take(store, still.review_id, DEFAULT_SHOT, "fair", SIZE, minutes=1.0)
    with pytest.raises(Refused, match="Nothing"):
        stills.end_now(store, other)
    interrupt(StillRun(store, client, next_still(store), lambda: False))
    stills.move(store, other, "pause")
    stills.end_now(store, other)
    StillRun(store, client, next_still(store), lambda: False).run()
    line = next(line for line in stills.list_stills(store, still.review_id) if line.id == other)
    assert (line.state, line.samples) == ("done", 2)


def test_how_far_the_time_leads_is_told_from_what_was_done() -> None:
    timed = Ending(Still(minutes_asked=2.0, samples=16, quality="coarse"))
    meter, counts = GrainMeter(2, {}), np.array([8, 16])
    assert timed.next_pass(1000, counts) == (1000, 1024), "it may go on for as long as there is time"
    assert timed.expected(meter, counts, 0.0, 1) == 16, "nothing is known yet"
    assert timed.expected(meter, counts, 30.0, 1) == 48 and timed.expected(meter, counts, 30.0, 2) == 96
    assert timed.expected(meter, counts, 500.0, 1) == 12
    assert not timed.is_reached(meter, counts, 119.0, 1) and timed.is_reached(meter, counts, 120.0, 1)
    assert not timed.is_reached(meter, counts, 120.0, 2), "two workers do twice as much in that time"
    assert not timed.is_reached(meter, np.array([0, 8]), 500.0, 1), "a tile has nothing yet"
    now = Ending(Still(samples=256, quality="fine", ends_now=True))
    most, few = np.array([0, 2, 32, 64, 64, 64]), np.array([2, 2, 2, 64])
    assert [now.next_pass(done, most) for done in (0, 2, 32, 64)] == [(0, 24), (2, 24), None, None]
    assert now.next_pass(0, np.array([0, 0])) == (0, 2) and now.next_pass(2, np.array([2, 2])) is None
    assert not now.is_reached(meter, most, 0.0, 1) and now.is_reached(meter, np.array([32, 64]), 0.0, 1)
    assert now.is_reached(meter, few, 0.0, 1), "that one is ahead is no reason to bring all others on"
    assert now.expected(meter, most, 0.0, 1) == 45 and now.expected(meter, few, 0.0, 1) == 18
    plain = Ending(Still(samples=16, quality="coarse"))
    assert [plain.next_pass(done, counts) for done in (0, 2, 8, 16)] == [
        (0, 2),
        (2, 16),
        (8, 16),
        None,
    ] and not plain.is_reached(meter, np.array([16, 16]), 1e9, 1)
