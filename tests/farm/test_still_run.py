"""A still on the farm, with a worker in this process: resume, fencing, no sample twice."""

import numpy as np
import pytest
from distributed import Client, LocalCluster

from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, TraceInputs
from usual_lamp.core.trace.plan import CHANNELS
from usual_lamp.farm import units
from usual_lamp.farm.leases import claim, release_all
from usual_lamp.farm.still_run import FIRST_VERDICT, Lost, StillRun
from usual_lamp.service import stills
from usual_lamp.store import blobs
from usual_lamp.store.tables import Still, StillTile

SIZE = (300, 64)


@pytest.fixture(scope="module")
def client():
    with (
        LocalCluster(
            n_workers=1, threads_per_worker=1, processes=False, dashboard_address=None, resources={"trace": 1}
        ) as cluster,
        Client(cluster) as made,
    ):
        yield made


@pytest.fixture
def still(store, review, monkeypatch) -> Still:
    monkeypatch.setattr(units._workshop, "_store", store)
    units._workshop.worlds.clear()
    stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE)
    return next_still(store)


def next_still(store) -> Still:
    with store.begin() as session:
        found = claim(session, Still)
        assert found is not None
        return found


def checkpoints(store) -> dict[int, tuple[int, bytes]]:
    with store.begin() as session:
        return {t.tile: (t.samples, bytes(t.sums)) for t in session.query(StillTile)}


def test_interrupted_still_resumes_to_the_same_picture(store, client, still, monkeypatch) -> None:
    kept: dict[str, np.ndarray] = {}
    finish = StillRun._finish
    monkeypatch.setattr(StillRun, "_finish", lambda self: (kept.update({self.id: self.sums.copy()}), finish(self))[1])
    calls = []
    with pytest.raises(Lost):
        StillRun(store, client, still, lambda: calls.append(1) or len(calls) > 2).run()
    saved = checkpoints(store)
    assert 0 < sum(samples for samples, _ in saved.values()) < 2 * still.samples
    release_all(store)
    second = next_still(store)
    assert second.attempt == still.attempt + 1
    StillRun(store, client, second, lambda: False).run()
    # The same still in one go.
    other = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE)
    StillRun(store, client, next_still(store), lambda: False).run()
    assert np.array_equal(kept[still.id], kept[other])
    with store.begin() as session:
        row = session.get(Still, still.id)
        assert row.state == "done" and row.done == 1.0
        assert blobs.read(store, row.picture)[:4] == b"\x89PNG"
    assert checkpoints(store) == {}


def test_a_still_by_its_grain_ends_when_it_is_reached(store, client, review, monkeypatch) -> None:
    monkeypatch.setattr(units._workshop, "_store", store)
    units._workshop.worlds.clear()
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


def test_an_older_attempt_may_not_write(store, client, still) -> None:
    straggler = StillRun(store, client, still, lambda: False)
    release_all(store)
    next_still(store)
    with pytest.raises(Lost):
        straggler.run()
    assert checkpoints(store) == {}


def test_paused_still_is_left_alone(store, client, still) -> None:
    stills.move(store, still.id, "pause")
    with pytest.raises(Lost):
        StillRun(store, client, still, lambda: False).run()
    with store.begin() as session:
        assert claim(session, Still) is None
    stills.move(store, still.id, "resume")
    assert next_still(store).id == still.id


def test_tiles_of_another_engine_are_not_mixed_in(store, client, still) -> None:
    calls: list[int] = []
    with pytest.raises(Lost):
        StillRun(store, client, still, lambda: calls.append(1) or len(calls) > 2).run()
    with store.begin() as session:
        session.get(Still, still.id).engine = "of yesterday"
    release_all(store)
    again = StillRun(store, client, next_still(store), lambda: False)
    again._resume()
    assert again.counts.sum() == 0 and checkpoints(store) == {}
    with store.begin() as session:
        assert session.get(Still, still.id).engine == ENGINE_VERSION


def test_a_still_without_a_tracer_waits_and_says_so(store, still) -> None:
    with (
        LocalCluster(n_workers=0, processes=False, dashboard_address=None) as cluster,
        Client(cluster) as lonely,
        pytest.raises(Lost),
    ):
        StillRun(store, lonely, still, lambda: bool(stills.list_stills(store, still.review_id)[0].message)).run()
    (line,) = stills.list_stills(store, still.review_id)
    assert line.state == "running" and "Waiting for a tracing process" in line.message


def test_inputs_of_a_still_are_whole(still) -> None:
    inputs = TraceInputs.model_validate_json(still.inputs)
    assert inputs.fingerprint() == still.fingerprint and (inputs.width, inputs.height) == SIZE
    assert len(inputs.parts) == 18 and CHANNELS == 12 and still.engine
