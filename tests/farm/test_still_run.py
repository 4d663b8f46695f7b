"""A still on the farm, with a worker in this process: resume, fencing, no sample twice."""

import numpy as np
import pytest
from distributed import Client, LocalCluster, wait

from farm.finished import SIZE, interrupt, next_still, pixels_of
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.picture import blocks
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.negative import Negative
from usual_lamp.core.picture.survey_file import SurveyFile
from usual_lamp.core.scene import SetLighting, SetShot
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, TraceInputs
from usual_lamp.core.trace.plan import CHANNELS
from usual_lamp.farm import finish_units, still_run
from usual_lamp.farm.asking import Lost
from usual_lamp.farm.leases import claim, release_all
from usual_lamp.farm.still_run import StillRun
from usual_lamp.farm.workshop import workshop
from usual_lamp.service import editing, still_light, stills
from usual_lamp.service.errors import Refused
from usual_lamp.service.reviews import require, scene_of
from usual_lamp.store import blobs
from usual_lamp.store.tables import Still, StillBlock, StillLight, StillTile


def checkpoints(store) -> dict[int, tuple[int, bytes]]:
    with store.begin() as session:
        return {t.tile: (t.samples, bytes(t.sums)) for t in session.query(StillTile)}


@pytest.mark.parametrize("at_risk", [0.0, 1e9])
def test_interrupted_still_resumes_to_the_same_picture(store, client, still, monkeypatch, at_risk) -> None:
    """Where all of it was kept, and where all of it was lost with its process."""
    monkeypatch.setattr(still_run, "AT_RISK", at_risk)
    kept: dict[str, np.ndarray] = {}
    finish = StillRun._finish

    def noted(run: StillRun) -> None:
        kept[run.id] = run.sketch.means.copy()
        finish(run)

    monkeypatch.setattr(StillRun, "_finish", noted)
    interrupt(StillRun(store, client, still, lambda: False))
    saved = checkpoints(store)
    assert (0 < sum(samples for samples, _ in saved.values()) < 2 * still.samples) == (at_risk == 0)
    workshop.tiles.clear()
    release_all(store)
    second = next_still(store)
    assert second.attempt == still.attempt + 1
    StillRun(store, client, second, lambda: False).run()
    # The same still in one go; a removed one lends no light.
    stills.set_removed(store, still.id, True)
    other = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE)
    StillRun(store, client, next_still(store), lambda: False).run()
    assert np.array_equal(kept[still.id], kept[other])
    with store.begin() as session:
        row = session.get(Still, still.id)
        assert row.state == "done" and row.done == 1.0
        assert blobs.read(store, row.picture)[:4] == b"\x89PNG"
    assert checkpoints(store) == {}


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


def test_tiles_of_another_engine_are_not_mixed_in(store, client, still, monkeypatch) -> None:
    monkeypatch.setattr(still_run, "AT_RISK", 0.0)
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


def test_a_lease_is_kept_while_many_short_units_are_done(store, client, still, monkeypatch) -> None:
    run, renewed = StillRun(store, client, still, lambda: False), []
    renew = run._renew
    monkeypatch.setattr(run, "_renew", lambda message: (renewed.append(message), renew(message))[1])
    monkeypatch.setattr(still_run, "RENEWED", -1.0)
    done = [client.submit(pow, 2, k) for k in range(3)]
    wait(done)
    assert len(run.finished(done)) == 3 and renewed == [None], "although there was nothing to wait for"


def test_inputs_of_a_still_are_whole(still) -> None:
    inputs = TraceInputs.model_validate_json(still.inputs)
    assert inputs.fingerprint() == still.fingerprint and (inputs.width, inputs.height) == SIZE
    assert len(inputs.parts) == 18 and CHANNELS == 12 and still.engine


def darker_key(store, review: str) -> None:
    with store.begin() as session:
        lighting = scene_of(require(session, review)).lighting
    key = next(id for id, lamp in lighting.lamps.items() if lamp.name == "Key")
    lamps = lighting.lamps | {key: lighting.lamps[key].model_copy(update={"level": -3.0, "filter": "#FFB060"})}
    changed = lighting.model_copy(update={"lamps": lamps, "brightness": lighting.brightness * 2.0})
    editing.edit(store, review, SetLighting(lighting=changed))


def test_a_change_of_levels_is_made_from_the_light_that_is_there(store, client, still, monkeypatch) -> None:
    StillRun(store, client, still, lambda: False).run()
    first = pixels_of(store, still.id)
    darker_key(store, still.review_id)
    again = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE)
    with monkeypatch.context() as patch:
        patch.setattr(StillRun, "_submit", lambda self: pytest.fail("it was traced"))
        StillRun(store, client, next_still(store), lambda: False).run()
    relit, _ = stills.list_stills(store, still.review_id)
    assert relit.id == again and relit.relit and relit.state == "done" and relit.samples == still.samples
    # The same samples, traced under the new levels.
    for id in (still.id, again):
        stills.set_removed(store, id, True)
    traced = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE)
    StillRun(store, client, next_still(store), lambda: False).run()
    difference = pixels_of(store, again) - pixels_of(store, traced)
    assert np.abs(first - pixels_of(store, traced)).mean() > 10
    # Lights are picked by their levels, so grain differs; nothing else does.
    assert np.abs(difference).mean() < 2 and np.abs(difference.mean(axis=(0, 1))).max() < 0.25


def test_a_transparent_still_knows_what_is_bare(store, client, still) -> None:
    """Also a coarse one: its survey is made first, and the negative keeps what no part covers."""
    with store.begin() as session:
        lighting = scene_of(require(session, still.review_id)).lighting
    backdrop = lighting.backdrop.model_copy(update={"transparent": True})
    editing.edit(store, still.review_id, SetLighting(lighting=lighting.model_copy(update={"backdrop": backdrop})))
    clear = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE)
    StillRun(store, client, next_still(store), lambda: False).run()
    with store.begin() as session:
        done = session.get(Still, clear)
        survey, negative = done.survey, done.negative
    bare = Negative(blobs.local(store, negative)).rows(0, SIZE[1]).bare
    np.testing.assert_array_equal(bare, SurveyFile(blobs.local(store, survey)).bare(Area(0, 0, *SIZE)))
    assert 0.1 < bare.mean() < 0.9


def test_a_large_still_is_finished_in_blocks_to_the_same_picture(store, client, still, monkeypatch) -> None:
    """Its survey as well; light that is kept and relit goes the same way."""
    StillRun(store, client, still, lambda: False).run()
    stills.set_removed(store, still.id, True)
    again = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE, by_kind=True)
    monkeypatch.setattr(blocks, "IN_ONE", 1000)
    monkeypatch.setattr(blocks, "BLOCK", 256)
    StillRun(store, client, next_still(store), lambda: False).run()
    difference = np.abs(pixels_of(store, again) - pixels_of(store, still.id))
    assert difference.mean() < 0.5 and np.quantile(difference, 0.999) <= 12
    with store.begin() as session:
        kept = session.get(Still, again)
        assert SurveyFile(blobs.local(store, kept.survey)).bare(Area(0, 0, *SIZE)).shape == SIZE[::-1]
        assert session.query(StillBlock).count() == 0
    darker_key(store, still.review_id)
    relit = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE)
    with monkeypatch.context() as patch:
        patch.setattr(StillRun, "_submit", lambda self: pytest.fail("it was traced"))
        StillRun(store, client, next_still(store), lambda: False).run()
    assert pixels_of(store, relit).mean() < pixels_of(store, again).mean()


def test_a_large_still_that_is_paused_while_it_is_finished_goes_on_there(store, client, still, monkeypatch) -> None:
    """No more blocks are cleaned after that, those that are stay, and so do its tiles."""
    monkeypatch.setattr(blocks, "IN_ONE", 1000)
    monkeypatch.setattr(blocks, "BLOCK", 64)
    cleaned_block, cleaned = finish_units.cleaned_block, []

    def counted(size, area, *asked):
        cleaned.append(area.left)
        if len(cleaned) == 2:
            stills.move(store, still.id, "pause")
        return cleaned_block(size, area, *asked)

    monkeypatch.setattr(finish_units, "cleaned_block", counted)
    with pytest.raises(Lost):
        StillRun(store, client, still, lambda: False).run()
    assert 2 <= len(cleaned) < 5 and checkpoints(store)
    with store.begin() as session:
        row = session.get(Still, still.id)
        assert row.state == "paused" and row.message is None
    stills.move(store, still.id, "resume")
    StillRun(store, client, next_still(store), lambda: False).run()
    assert sorted(set(cleaned)) == [0, 64, 128, 192, 256] and len(cleaned) <= 6
    assert checkpoints(store) == {}


def test_a_still_whose_light_is_gone_is_traced(store, client, still) -> None:
    StillRun(store, client, still, lambda: False).run()
    darker_key(store, still.review_id)
    again = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE)
    with store.begin() as session:
        assert session.get(Still, again).relit_of == still.id
        session.query(StillLight).filter(StillLight.tile == 1).delete()
    StillRun(store, client, next_still(store), lambda: False).run()
    line, _ = stills.list_stills(store, still.review_id)
    assert line.state == "done" and not line.relit and line.light_kept


def test_another_finish_is_developed_from_the_negative(store, client, still, monkeypatch) -> None:
    """Nothing is traced or denoised for another exposure; the picture is that of a trace at that exposure."""
    StillRun(store, client, still, lambda: False).run()
    shot = editing.look_at(store, still.review_id).scene.shots[DEFAULT_SHOT]
    editing.edit(
        store,
        still.review_id,
        SetShot(id=DEFAULT_SHOT, shot=shot.model_copy(update={"exposure": 10.5, "contrast": 1.2})),
    )
    again = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE)
    with monkeypatch.context() as patch:
        patch.setattr(StillRun, "_submit", lambda self: pytest.fail("it was traced"))
        patch.setattr(finish_units, "cleaned_block", lambda *_: pytest.fail("it was denoised"))
        StillRun(store, client, next_still(store), lambda: False).run()
    for id in (still.id, again):
        stills.set_removed(store, id, True)
    traced = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE)
    StillRun(store, client, next_still(store), lambda: False).run()
    assert np.abs(pixels_of(store, still.id) - pixels_of(store, again)).mean() > 8
    assert np.abs(pixels_of(store, again) - pixels_of(store, traced)).max() <= 1


def test_a_finished_still_is_traced_on_to_the_picture_of_more_samples(store, client, still, monkeypatch) -> None:
    """The same samples as if it had been asked for so many at once; stopped on the way it stays as it was."""
    StillRun(store, client, still, lambda: False).run()
    coarse = pixels_of(store, still.id)
    (line,) = stills.list_stills(store, still.review_id)
    assert line.can_go_on
    with pytest.raises(Refused, match="as fine as that"):
        still_light.go_on(store, still.id, "coarse")
    still_light.go_on(store, still.id, "fair")
    stills.move(store, still.id, "stop")
    (line,) = stills.list_stills(store, still.review_id)
    assert (line.state, line.samples) == ("done", 16) and np.array_equal(pixels_of(store, still.id), coarse)
    still_light.go_on(store, still.id, "fair")
    counted = []
    take = StillRun._take
    monkeypatch.setattr(StillRun, "_take", lambda self, f: (counted.append(self.pending[f].kept), take(self, f))[1])
    StillRun(store, client, next_still(store), lambda: False).run()
    assert min(counted) == 16, "what was traced is not traced again"
    (line,) = stills.list_stills(store, still.review_id)
    assert (line.state, line.samples, line.quality) == ("done", 64, "fair")
    stills.set_removed(store, still.id, True)
    whole = stills.take(store, still.review_id, DEFAULT_SHOT, "fair", SIZE)
    StillRun(store, client, next_still(store), lambda: False).run()
    # The light was kept as half numbers in between.
    difference = np.abs(pixels_of(store, still.id) - pixels_of(store, whole))
    assert difference.mean() < 0.25 < np.abs(coarse - pixels_of(store, whole)).mean()


def test_a_version_of_a_still_changes_levels_only(store, client, still) -> None:
    StillRun(store, client, still, lambda: False).run()
    lighting = still_light.lighting_of(store, still.id)
    with pytest.raises(Refused, match="levels"):
        still_light.relight(store, still.id, lighting.model_copy(update={"turn": lighting.turn + 10}))
    version = still_light.relight(store, still.id, lighting.model_copy(update={"brightness": lighting.brightness / 2}))
    StillRun(store, client, next_still(store), lambda: False).run()
    assert pixels_of(store, version).mean() < pixels_of(store, still.id).mean()
    # A version lends the same light on, until that is gone.
    still_light.relight(store, version, lighting)
    with store.begin() as session:
        session.get(Still, still.id).light_kept = False
    with pytest.raises(Refused, match="not kept"):
        still_light.relight(store, version, lighting)
