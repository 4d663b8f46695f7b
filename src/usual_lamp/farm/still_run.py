"""One still on the farm: hands out units, sees that what they trace is kept, shows previews."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED

import numpy as np
from distributed import Client, Future, KilledWorker, wait
from numpy.typing import NDArray
from sqlalchemy import select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.picture.blocks import is_small
from usual_lamp.core.picture.develop import scales_of, shrunk
from usual_lamp.core.scene import Lighting
from usual_lamp.core.scene.light_groups import light_groups
from usual_lamp.core.trace.group_sums import can_be_kept, channels, relit, unpacked
from usual_lamp.core.trace.jobs.grain import GrainMeter, stride_for
from usual_lamp.core.trace.plan import CHANNELS, tiles
from usual_lamp.core.trace.sum_bytes import from_bytes, to_bytes
from usual_lamp.core.trace.tiled import sketch_step
from usual_lamp.farm.asking import Asking, Lost, TracerCrashed
from usual_lamp.farm.ending import Ending
from usual_lamp.farm.finish_units import Finished
from usual_lamp.farm.finishing import Finishing
from usual_lamp.farm.leases import LEASE
from usual_lamp.farm.links import tracers
from usual_lamp.farm.sketches import Preview, PreviewOrder, Sketch, preview_unit
from usual_lamp.farm.tile_units import TileOrder, TileTraced, light_unit, trace_unit
from usual_lamp.service import checkpoints
from usual_lamp.service.reviews import touch_stills
from usual_lamp.service.stills import finish_of
from usual_lamp.store import Store, again_when_overtaken, blobs
from usual_lamp.store.tables import Review, Still, StillLight, StillPreview, StillTile, utc_now

Sums = NDArray[np.float32]
LOOK_AGAIN = 2.0
"""Seconds after which a run that waits for work looks whether it is still wanted."""
RENEWED = LEASE.total_seconds() / 4
"""Seconds after which a lease is renewed."""
LEASED = 200
"""Tiles that are read while a lease lasts."""
AT_RISK = 20.0
"""Seconds of tracing that may be lost with a tracing process, and are traced again then."""
WAITING = "Waiting for a tracing process to be started."


class ReviewRemoved(Lost):
    """Its review was removed: it waits until the review is brought back."""


class StillRun(Asking):
    def __init__(self, store: Store, client: Client, still: Still, closing: Callable[[], bool]) -> None:
        super().__init__(client, closing)
        self.store = store
        self.id, self.attempt, self.still = still.id, still.attempt, still
        self.look = finish_of(still)
        self.tiles = tiles(still.width, still.height)
        self.ending, self.spent = Ending(still), still.seconds
        self.finishing = Finishing(store, self, still, "quick" if self.ending.is_quick else "best")
        earlier = {int(n): square for n, square in json.loads(still.readings or "{}").items()}
        self.meter, self.stride = GrainMeter(len(self.tiles), earlier), stride_for(still.width * still.height)
        self.lighting = Lighting.model_validate(json.loads(still.inputs)["lighting"])
        groups = light_groups(self.lighting).kept
        # Covers are looked at once; a large still would need too much room.
        kept = not still.is_cover and can_be_kept(still.width, still.height, groups, still.by_kind)
        self.apart = groups if kept else 0
        """Groups of lights that are summed apart, or 0."""
        self.by_kind = still.by_kind and self.apart > 0
        self.channels = channels(self.apart, self.by_kind) if self.apart else CHANNELS
        self.sketch = Sketch(self.id, still.width, still.height, sketch_step(still.width, still.height))
        """Under the present levels where lights are summed apart."""
        self.counts, self.kept = np.zeros(len(self.tiles), np.int64), np.zeros(len(self.tiles), np.int64)
        """Samples of each tile that are traced, and those that the database has."""
        self.unkept: dict[int, float] = {}
        """Seconds by tile that went into what the database does not have yet."""
        self.pending: dict[Future, TileOrder] = {}
        self.preview_cost, self.last_preview = 0.0, 0.0
        self.said, self.renewed = still.message, time.monotonic()

    def run(self) -> None:
        """Trace until done. Raises Lost when it is no longer ours to trace, TracerCrashed when it cannot be traced."""
        try:
            if self._relight():
                return
            self._resume()
            while self._submit():
                self._take_finished()
                if self.ending.is_reached(self.meter, self.counts, self.spent, tracers(self.client)):
                    break
                self._maybe_preview()
            self._finish()
        finally:
            self.client.cancel(list(self.pending), force=True)

    def _take_finished(self) -> None:
        """What is done after a short wait."""
        for future in self.finished(list(self.pending)):
            self._take(future)
        self._stop_when_closing()

    # -- work -------------------------------------------------------------------------------------------------

    def finished(self, futures: list[Future]) -> list[Future]:
        """Those that are done after a short wait. Without a tracing process the still says that it waits."""
        try:
            finished, _ = wait(futures, return_when=FIRST_COMPLETED, timeout=LOOK_AGAIN)
            found = list(finished)
        except TimeoutError:
            found = []
        saying = self.doing if found or tracers(self.client) else WAITING
        # Many short units may follow each other for longer than a lease.
        if saying != self.said or not found or time.monotonic() - self.renewed > RENEWED:
            self._renew(saying)
        return found

    @again_when_overtaken
    def _renew(self, message: str | None) -> None:
        """Keep the lease while nothing is done, and say what is waited for."""
        with self.store.begin() as session:
            still = self._ours(session)
            still.lease = utc_now() + LEASE
            if message != self.said:
                still.message = self.said = message
                touch_stills(session, still.review_id)
        self.renewed = time.monotonic()

    @again_when_overtaken
    def _resume(self) -> None:
        """Take over the checkpoints of earlier attempts; those of another engine would not fit the rest and go."""
        if self.still.engine != ENGINE_VERSION:
            checkpoints.drop(self.store, self.id)
        with self.store.begin() as session:
            still = self._ours(session)
            if still.engine != ENGINE_VERSION:
                still.engine, still.readings, still.grain, still.done = ENGINE_VERSION, None, None, 0.0
                still.dropped, still.light_kept = 0, False
                self.meter = GrainMeter(len(self.tiles), {})
            if still.light_kept:
                self._go_on_from_light(session)
            known = session.execute(
                select(StillTile.tile, StillTile.samples).where(StillTile.still_id == self.id)
            ).all()
        for number, (index, samples) in enumerate(known):
            if number % LEASED == LEASED - 1:
                self._renew(None)  # all tiles of a large still take minutes to be read
            sums = self._read_kept(index)
            if sums is not None:
                seen = relit(sums, self.lighting, None) if self.apart else sums
                self.sketch.put(index, shrunk(seen, self.sketch.step) / np.float32(samples), samples)
                self.counts[index] = self.kept[index] = samples

    def _go_on_from_light(self, session: Session) -> None:
        """Make checkpoints of the light that a finished still has kept, where there are none: it is traced on."""
        there = set(session.scalars(select(StillTile.tile).where(StillTile.still_id == self.id)))
        for index, t in enumerate(self.tiles):
            own = (StillLight.still_id == self.id) & (StillLight.tile == index) & StillLight.samples.is_not(None)
            row = session.execute(select(StillLight.means, StillLight.samples).where(own)).one_or_none()
            if row is not None and index not in there:
                sums = unpacked(row.means, t.height, t.width) * np.float32(row.samples)
                values = {"samples": row.samples, "sums": to_bytes(sums)}
                session.execute(insert(StillTile).values(still_id=self.id, tile=index, **values))

    @again_when_overtaken
    def _read_kept(self, index: int) -> Sums | None:
        """The checkpoint of a tile. One that was written when light was summed in another way is removed."""
        t = self.tiles[index]
        with self.store.begin() as session:
            row = session.get(StillTile, (self.id, index))
            if row is None:
                return None
            sums = from_bytes(row.sums, t.height, t.width)
            if sums.shape[2] == self.channels:
                return sums
            session.delete(row)
        return None

    def _submit(self) -> bool:
        """Keep the workers busy with the coarsest tiles; False when nothing is left to do or wait for."""
        busy = {order.number for order in self.pending.values()}
        workers = max(1, tracers(self.client))
        order = sorted(range(len(self.tiles)), key=lambda k: (self.counts[k], k))
        for index in order:
            if len(self.pending) > workers:
                break
            span = self.ending.next_pass(int(self.counts[index]), self.counts)
            if index in busy or span is None:
                continue
            # Who holds a tile is not asked: with several workers, all of it is handed over through the database.
            is_to_be_kept = workers > 1 or span[1] >= self.ending.most or sum(self.unkept.values()) >= AT_RISK
            asked = self._order(index, span[1], is_to_be_kept)
            future = self.client.submit(
                trace_unit, asked, key=f"{self.id}-{self.attempt}-{index}-{span[0]}-{self.crashes}", pure=False,
                retries=2, resources={"trace": 1},
            )  # fmt: skip
            self.pending[future] = asked
        return bool(self.pending)

    def _order(self, index: int, stop: int, is_to_be_kept: bool) -> TileOrder:
        """To bring a tile to so many samples."""
        return TileOrder(
            self.id, self.attempt, self.still.fingerprint, index, self.tiles[index], int(self.kept[index]), stop,
            is_to_be_kept, self.apart, self.by_kind, self.sketch.step, self.stride, ENGINE_VERSION,
        )  # fmt: skip

    def _take(self, future: Future) -> None:
        asked = self.pending.pop(future)
        index = asked.number
        try:
            traced: TileTraced = self.result_of(future)
        except KilledWorker as error:
            self.crashed(error)
            return
        if traced.engine != ENGINE_VERSION:
            raise TracerCrashed(f"a worker runs engine {traced.engine}, and this is {ENGINE_VERSION}: update it")
        self.crashes, self.spent = 0, self.spent + traced.seconds
        self.counts[index] = asked.stop
        if traced.is_kept:
            self.kept[index] = asked.stop
            self.unkept.pop(index, None)
        else:
            self.unkept[index] = self.unkept.get(index, 0.0) + traced.seconds
        self.sketch.put(index, traced.small, asked.stop)
        for samples, colour in traced.reads.items():
            self.meter.read(index, colour, samples)
        self._tell(traced)

    @again_when_overtaken
    def _tell(self, traced: TileTraced) -> None:
        """Say how far it is, provided that it is still ours."""
        weights = np.array([tile.width * tile.height for tile in self.tiles], np.float64)
        with self.store.begin() as session:
            still = self._ours(session)
            self.ending.is_now = still.ends_now
            still.done = min(1.0, float(self.counts @ weights / (weights.sum() * self._expected())))
            still.seconds, still.lease = still.seconds + traced.seconds, utc_now() + LEASE
            still.dropped += traced.dropped
            still.samples, still.readings = self._expected(), json.dumps(self.meter.readings)
            still.grain = self.meter.grain(max(1, int(self.counts.min())))
            touch_stills(session, still.review_id)

    def _expected(self) -> int:
        """Samples of the finished still, as far as that can be told."""
        return self.ending.expected(self.meter, self.counts, self.spent, tracers(self.client))

    def _ours(self, session: Session) -> Still:
        still = session.get(Still, self.id, with_for_update=True)
        if still is None or still.state != "running" or still.attempt != self.attempt:
            raise Lost
        if session.scalar(select(Review.removed).where(Review.id == still.review_id)) is not None:
            raise ReviewRemoved
        return still

    # -- pictures ---------------------------------------------------------------------------------------------

    def _maybe_preview(self) -> None:
        """A new preview once every tile has something, and never for more than a twelfth of the time."""
        if self.counts.min() == 0 or time.monotonic() - self.last_preview < max(1.5, 12 * self.preview_cost):
            return
        self._preview()

    def _preview(self) -> None:
        sketch, patches = self.sketch, dict[int, Sums]()
        while True:
            asked = PreviewOrder(
                self.id, self.still.width, self.still.height, sketch.step, list(sketch.samples), patches, self.look
            )
            seen: Preview = self.ask(preview_unit, asked)
            if not seen.lacking:
                break
            # What one process lacks is sent to the next as well: it may be another one.
            patches |= {number: sketch.get(number) for number in seen.lacking}
        self._show(seen.jpeg)
        self.last_preview, self.preview_cost = time.monotonic(), seen.seconds

    @again_when_overtaken
    def _show(self, jpeg: bytes) -> None:
        with self.store.begin() as session:
            still = self._ours(session)
            row = insert(StillPreview).values(still_id=self.id, jpeg=jpeg)
            session.execute(row.on_duplicate_key_update(jpeg=row.inserted.jpeg))
            still.version += 1
            touch_stills(session, still.review_id)

    def _finish(self) -> None:
        while self.pending:  # they cannot be called back, and each brings its tile further
            self._take_finished()
        samples, alone, ground = int(self.counts.min()), self.still.is_cover, self.lighting.ground
        unkept = [(self._order(index, int(self.counts[index]), True),) for index in self.unkept]
        self.ask_each(trace_unit, unkept, None)
        if not is_small((self.still.width, self.still.height)):
            self._preview()  # to be looked at until the whole is there, which takes long
        # What is bare of a transparent one must be known first.
        survey = None if ground is None or alone else self.still.survey or self._keep_survey()
        scales = scales_of(self.sketch.layers())
        made = self.finishing.of_light(samples, ground, scales, survey)
        self._show(made.jpeg)
        # One for a quick look does not wait for layers that nobody masks by.
        if not alone and not survey and not self.still.survey and (self.by_kind or not self.ending.is_quick):
            self._keep_survey()
        if self.apart:
            cut = enumerate(self.tiles)
            self.ask_each(light_unit, [(self.id, self.attempt, index, tile) for index, tile in cut], None)
        self._hand_over(made, samples, self.meter.grain(samples))
        checkpoints.drop(self.store, self.id)

    def _keep_survey(self) -> str:
        self._put_survey(name := self.finishing.survey())
        return name

    @again_when_overtaken
    def _put_survey(self, name: str) -> None:
        with self.store.begin() as session:
            self._ours(session).survey = name

    def _relight(self) -> bool:
        """Make it from the kept light of another still, where that is asked for; False when it has to be traced."""
        if not self.still.relit_of:
            return False
        with self.store.begin() as session:
            source = session.get(Still, self.still.relit_of)
        made, ground = None, self.lighting.ground
        if source is not None and source.engine == ENGINE_VERSION:
            if source.fingerprint == self.still.fingerprint and source.negative is not None:
                made = self.finishing.of_negative(source.negative, source.samples, ground)
            elif source.light_kept and (found := self.finishing.relit(source.id)) is not None:
                jpeg, scales = found
                self._show(jpeg)
                made = self.finishing.of_light(source.samples, ground, scales, source.survey, source.id)
        if source is not None and made is not None:
            self._show(made.jpeg)
            self.still.survey = source.survey  # another light or finish, the same things in the same places
            self._hand_over(made, source.samples, source.grain)
            checkpoints.drop(self.store, self.id)
            return True
        self._renew_as_traced()
        return False

    @again_when_overtaken
    def _renew_as_traced(self) -> None:
        """Say that it is traced after all."""
        with self.store.begin() as session:
            still = self._ours(session)
            still.relit_of, still.lease = None, utc_now() + LEASE
            touch_stills(session, still.review_id)

    @again_when_overtaken
    def _hand_over(self, made: Finished, samples: int, grain: float | None) -> None:
        """The finished picture into the database, in place of the checkpoints."""
        with self.store.begin() as session:
            still = self._ours(session)
            still.picture = made.picture
            if not still.is_cover:
                still.negative = made.negative
            still.survey = still.survey or self.still.survey
            still.state, still.done, still.finished, still.lease = "done", 1.0, utc_now(), None
            still.message = None
            still.samples, still.grain = samples, grain
            still.light_kept = bool(self.apart) and still.relit_of is None
            review = session.get(Review, still.review_id, with_for_update=True)
            if review is not None:
                review.cover = blobs.put_bytes(session, made.small, "image/jpeg")
            touch_stills(session, still.review_id)
