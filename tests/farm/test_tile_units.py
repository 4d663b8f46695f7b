"""Units of work on a tile: done twice they trace once, and only the attempt and engine that is meant may write."""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest

from farm.finished import SIZE
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.farm import tile_units
from usual_lamp.farm.sketches import Preview, PreviewOrder, preview_unit
from usual_lamp.farm.still_run import StillRun
from usual_lamp.farm.tile_units import TileOrder, TilesGone, read_tile, trace_unit
from usual_lamp.farm.workshop import workshop
from usual_lamp.store.tables import StillTile


@pytest.fixture
def order(store, still) -> TileOrder:
    workshop.tiles.clear()
    return StillRun(store, None, still, lambda: False)._order(1, 4, True)


def rows(store) -> list[tuple[int, int]]:
    with store.begin() as session:
        return [(row.tile, row.samples) for row in session.query(StillTile)]


def test_a_unit_that_is_done_again_traces_nothing_and_tells_the_same(store, order, monkeypatch) -> None:
    first = trace_unit(order)
    assert first.is_kept and rows(store) == [(1, 4)] and set(first.reads) == {2, 4}
    sums = read_tile(order.still_id, 1, order.tile).sums
    monkeypatch.setattr(tile_units, "_batch", None)
    again = trace_unit(order)
    workshop.tiles.clear()
    from_rows = trace_unit(order)
    assert again.is_kept and from_rows.is_kept and rows(store) == [(1, 4)]
    assert np.array_equal(first.small, again.small) and np.array_equal(first.small, from_rows.small)
    assert np.array_equal(sums, read_tile(order.still_id, 1, order.tile).sums)


def test_sums_do_not_depend_on_how_the_work_is_cut_or_where_they_were_held(store, order) -> None:
    """In one go; in pieces that are held; in pieces of which a part was lost."""
    whole = trace_unit(replace(order, stop=20)).small
    for lost in (False, True):
        with store.begin() as session:
            session.query(StillTile).delete()
        workshop.tiles.clear()
        kept = trace_unit(replace(order, stop=8))
        held = trace_unit(replace(order, kept=8, stop=16, is_to_be_kept=False))
        assert kept.is_kept and not held.is_kept and rows(store) == [(1, 8)]
        if lost:
            workshop.tiles.clear()
        assert np.array_equal(trace_unit(replace(order, kept=8, stop=20)).small, whole)
        assert rows(store) == [(1, 20)]


def test_a_tile_that_cannot_be_held_is_kept(store, order, monkeypatch) -> None:
    monkeypatch.setattr(workshop.tiles, "most", 0)
    assert trace_unit(replace(order, is_to_be_kept=False)).is_kept and rows(store) == [(1, 4)]


def test_who_is_not_meant_may_not_write(store, order) -> None:
    with pytest.raises(TilesGone):
        trace_unit(replace(order, attempt=order.attempt + 1))
    other = trace_unit(replace(order, engine="of tomorrow"))
    assert other.engine == ENGINE_VERSION and not other.is_kept and rows(store) == []
    trace_unit(order)
    with pytest.raises(TilesGone):  # somebody else went further than the one who asks knows
        trace_unit(replace(order, stop=8))


def test_preparing_a_world_is_no_time_of_tracing(order, monkeypatch) -> None:
    clock = [0.0]
    batch = tile_units._batch

    def slow(*asked):
        clock[0] += 100.0 if asked[2] == 0 and order.fingerprint not in seen else 1.0
        seen.add(order.fingerprint)
        return batch(*asked)

    seen: set[str] = set()
    monkeypatch.setattr(tile_units, "_batch", slow)
    monkeypatch.setattr(tile_units, "time", SimpleNamespace(monotonic=lambda: clock[0]))
    assert trace_unit(replace(order, stop=8)).seconds == 1.0, "the second of two batches"
    workshop.tiles.clear()
    assert trace_unit(replace(order, kept=8, stop=24)).seconds == 2.0, "the world is there"


def test_a_preview_lacks_what_another_process_has_traced(store, still, order, monkeypatch) -> None:
    """Whoever traced the tiles is sent none of them; another one says which it lacks, and makes the same of them."""
    run = StillRun(store, None, still, lambda: False)
    for number, tile in enumerate(run.tiles):
        run.sketch.put(number, trace_unit(replace(order, number=number, tile=tile)).small, 4)
    asked = PreviewOrder(order.still_id, *SIZE, order.step, run.sketch.samples, {}, run.look)
    own = preview_unit(asked)
    assert own.lacking == [] and own.jpeg[:2] == b"\xff\xd8"
    monkeypatch.setattr(workshop, "sketch", None)
    assert preview_unit(asked) == Preview(b"", [0, 1])
    patches = {number: run.sketch.get(number) for number in (0, 1)}
    assert preview_unit(replace(asked, patches=patches)).jpeg == own.jpeg
    trace_unit(replace(order, kept=4, stop=8))
    further = preview_unit(replace(asked, patches=patches))
    assert further.lacking == [] and further.jpeg != own.jpeg, "what came further meanwhile is shown"
