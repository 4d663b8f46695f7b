"""A still on the farm, with a worker in this process: resume, fencing, no sample twice."""

import json

import numpy as np
import OpenEXR
import pytest
from distributed import Client, LocalCluster

from farm.finished import SIZE, next_still, pixels_of
from usual_lamp.core.camera import exposure_scale
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.picture import blocks
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.negative import Negative
from usual_lamp.core.picture.survey_file import SurveyFile
from usual_lamp.core.scene import SetLighting, SetShot
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, TraceInputs
from usual_lamp.core.trace.jobs.grain import GrainMeter
from usual_lamp.core.trace.kinds_of_light import LAYERS
from usual_lamp.core.trace.plan import CHANNELS
from usual_lamp.farm import finish_units, still_run
from usual_lamp.farm.asking import Lost
from usual_lamp.farm.ending import FIRST_VERDICT, Ending
from usual_lamp.farm.leases import claim, release_all
from usual_lamp.farm.still_run import StillRun
from usual_lamp.farm.workshop import workshop
from usual_lamp.service import editing, still_files, still_light, stills
from usual_lamp.service.errors import Refused
from usual_lamp.service.reviews import require, scene_of
from usual_lamp.service.still_files import ExrWish
from usual_lamp.store import blobs
from usual_lamp.store.tables import Still, StillBlock, StillLight, StillTile


def checkpoints(store) -> dict[int, tuple[int, bytes]]:
    with store.begin() as session:
        return {t.tile: (t.samples, bytes(t.sums)) for t in session.query(StillTile)}


def interrupt(run: StillRun) -> None:
    """Let it trace until it has taken something."""
    run.closing = lambda: bool(run.counts.any())
    with pytest.raises(Lost):
        run.run()


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
    assert timed.next_pass(1000) == (1000, 1024), "it may go on for as long as there is time"
    assert timed.expected(meter, counts, 0.0, 1) == 16, "nothing is known yet"
    assert timed.expected(meter, counts, 30.0, 1) == 48 and timed.expected(meter, counts, 30.0, 2) == 96
    assert timed.expected(meter, counts, 500.0, 1) == 12
    assert not timed.is_reached(meter, counts, 119.0, 1) and timed.is_reached(meter, counts, 120.0, 1)
    assert not timed.is_reached(meter, counts, 120.0, 2), "two workers do twice as much in that time"
    assert not timed.is_reached(meter, np.array([0, 8]), 500.0, 1), "a tile has nothing yet"
    now = Ending(Still(samples=256, quality="fine", ends_now=True))
    assert [now.next_pass(done, 64) for done in (0, 2, 32, 64)] == [(0, 32), (2, 32), None, None]
    assert now.next_pass(0, 0) == (0, 2) and now.next_pass(2, 2) is None
    assert now.is_reached(meter, np.array([32, 64]), 0.0, 1) and not now.is_reached(meter, np.array([2, 32]), 0.0, 1)
    plain = Ending(Still(samples=16, quality="coarse"))
    assert [plain.next_pass(done) for done in (0, 2, 8, 16)] == [
        (0, 2),
        (2, 16),
        (8, 16),
        None,
    ] and not plain.is_reached(meter, np.array([16, 16]), 1e9, 1)


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


def test_the_lights_of_a_still_are_layers_of_its_exr(store, client, still) -> None:
    """They add up to all light, within what denoising and half numbers take."""
    StillRun(store, client, still, lambda: False).run()
    path = store.cache / "layers.exr"
    path.write_bytes(still_files.file_of(store, still.id, "exr").opened().read())
    with OpenEXR.File(str(path), separate_channels=True) as file:
        found = {name: np.asarray(channel.pixels) for name, channel in file.channels().items()}
    lights = [name for name in found if name.startswith("light of ") and name.endswith(".G")]
    assert {"light of Key.G", "light of surroundings.G", "light of glow.G"} <= set(lights)
    on_product = found["backdrop.G"] < 0.01
    total = sum(found[name][on_product].mean() for name in lights)
    assert total == pytest.approx(found["light.G"][on_product].mean(), rel=0.03)
    assert found["albedo.R"].max() <= 1.01 and np.abs(found["normal.B"]).max() <= 1.01


def test_depth_positions_and_mattes_stand_in_its_exr(store, client, still) -> None:
    stills.move(store, still.id, "stop")
    stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE, grain=0.5)
    still = next_still(store)
    StillRun(store, client, still, lambda: False).run()
    path = store.cache / "seen.exr"
    path.write_bytes(still_files.file_of(store, still.id, "exr").opened().read())
    with OpenEXR.File(str(path), separate_channels=True) as file:
        found = {name: np.asarray(channel.pixels) for name, channel in file.channels().items()}
        parts = json.loads(file.header()["parts"])
        worn = json.loads(file.header()["appearances"])
    numbers = np.unique(found["part.Y"][found["part.Y"] >= 0])
    assert len(numbers) and {str(int(n)) for n in numbers} <= set(parts)
    assert {str(int(n)) for n in np.unique(found["appearance.Y"]) if n >= 0} <= set(worn)
    camera = TraceInputs.model_validate_json(still.inputs).camera
    on = found["part.Y"] >= 0
    points = np.stack([found[f"position.{axis}"][on] for axis in "XYZ"], axis=1)
    x, y, depth = camera.project(points, SIZE[0] / SIZE[1]).T
    rows, columns = np.nonzero(on)
    np.testing.assert_allclose((x + 1) / 2 * SIZE[0] - 0.5, columns, atol=0.02)
    np.testing.assert_allclose((1 - y) / 2 * SIZE[1] - 0.5, rows, atol=0.02)
    np.testing.assert_allclose(depth, found["depth.Y"][on], rtol=1e-4)
    assert (found["alpha.Y"][on] > 0).mean() > 0.9


def test_light_by_kind_stands_in_its_exr_and_adds_up(store, client, still) -> None:
    stills.move(store, still.id, "stop")
    made = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE, by_kind=True)
    StillRun(store, client, next_still(store), lambda: False).run()

    def layers(id: str, wish: ExrWish = ExrWish()) -> dict[str, np.ndarray]:
        path = store.cache / "kinds.exr"
        path.write_bytes(still_files.file_of(store, id, "exr", exr=wish).opened().read())
        with OpenEXR.File(str(path)) as file:
            return {name: np.asarray(channel.pixels) for name, channel in file.channels().items()}

    found = layers(made)
    kinds = sum(found[f"kind_{name}"] for name in LAYERS)
    # Taking grain away keeps the light as a whole. The backdrop stands there as it is recorded.
    clean = found["light"] + found["backdrop"] / exposure_scale(REFERENCE_EV)
    np.testing.assert_allclose(kinds.mean(axis=(0, 1)), clean.mean(axis=(0, 1)), rtol=0.02)
    assert 0 <= found["shadow"].min() < found["shadow"].max() <= 1.001
    assert found["depth.Y"].shape == (SIZE[1], SIZE[0]), "a coarse one has the rest as well"
    np.testing.assert_allclose(found["light_raw"].mean(), found["light"].mean(), rtol=0.02)
    some = layers(made, ExrWish(frozenset({"raw", "seen"}), half=True))
    assert {*some} >= {"light_raw", "depth.Y", "part.Y"} and not any(
        n.startswith(("kind", "light of", "alb")) for n in some
    )
    assert (some["light_raw"].dtype, some["RGB"].dtype, some["depth.Y"].dtype) == (np.float16, np.float16, np.float32)
    np.testing.assert_allclose(some["light_raw"], found["light_raw"], rtol=1e-3, atol=1e-3)
    assert {*layers(made, ExrWish(frozenset()))} == {"RGB", "light", "backdrop"}
    # Lights at other levels are another light by kind, which was not traced; the same light finished otherwise is not.
    lighting = still_light.lighting_of(store, made)
    dimmed = still_light.relight(store, made, lighting.model_copy(update={"brightness": lighting.brightness / 2}))
    StillRun(store, client, next_still(store), lambda: False).run()
    assert not any(name.startswith("kind_") for name in layers(dimmed))
    again = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE, by_kind=True)
    with store.begin() as session:
        assert session.get(Still, again).relit_of == made
    StillRun(store, client, next_still(store), lambda: False).run()
    np.testing.assert_array_equal(layers(again)["kind_emission"], found["kind_emission"])


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
