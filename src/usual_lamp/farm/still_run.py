"""One still on the farm: hands out units, sums results in order, checkpoints every tile, shows previews."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED

import numpy as np
from distributed import Client, Future, wait
from numpy.typing import NDArray
from sqlalchemy import select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from usual_lamp.core.camera import Finish
from usual_lamp.core.picture import Layers, develop, to_jpeg, to_png
from usual_lamp.core.quality import MOST_SAMPLES
from usual_lamp.core.trace.grain import GrainMeter
from usual_lamp.core.trace.plan import CHANNELS, Tile, passes, tiles
from usual_lamp.farm.leases import LEASE
from usual_lamp.farm.units import UnitResult, trace_unit, tracers
from usual_lamp.service.reviews import touch
from usual_lamp.store import Store, again_after_deadlock, blobs
from usual_lamp.store.tables import Review, Still, StillPreview, StillTile, utc_now

Sums = NDArray[np.float32]
COVER_SIZE = (480, 360)
FIRST_VERDICT = 16
"""Samples before which a still is not called fine enough."""
PREVIEW_WIDTH = 900
"""Wider stills are shown at half their size while they are being traced."""


class Lost(Exception):
    """The still was paused, stopped, removed or taken over: leave it as it is."""


class StillRun:
    def __init__(self, store: Store, client: Client, still: Still, closing: Callable[[], bool]) -> None:
        self.store, self.client, self.closing = store, client, closing
        self.id, self.attempt, self.still = still.id, still.attempt, still
        self.look = Finish.model_validate({"exposure": still.exposure, "white": still.white, "tone": still.tone})
        self.tiles = tiles(still.width, still.height)
        self.asked = still.grain_asked
        self.ranges = list(passes(MOST_SAMPLES if self.asked else still.samples))
        earlier = {int(n): square for n, square in json.loads(still.readings or "{}").items()}
        self.meter = GrainMeter(len(self.tiles), earlier)
        self.sums: Sums = np.zeros((still.height, still.width, CHANNELS), np.float32)
        self.counts = np.zeros(len(self.tiles), np.int64)
        self.pending: dict[Future, tuple[int, int, int]] = {}
        self.preview_cost, self.last_preview = 0.0, 0.0

    def run(self) -> None:
        """Trace until done. Raises Lost when it is no longer ours to trace."""
        try:
            self._resume()
            while self._submit():
                finished, _ = wait(list(self.pending), return_when=FIRST_COMPLETED, timeout=LEASE.total_seconds() * 10)
                for future in finished:
                    self._take(future)
                if self.closing():
                    raise Lost
                if self._fine_enough():
                    break
                self._maybe_preview()
            self._finish()
        finally:
            self.client.cancel(list(self.pending), force=True)

    # -- work -------------------------------------------------------------------------------------------------

    def _resume(self) -> None:
        """Take over the checkpoints of earlier attempts."""
        with self.store.begin() as session:
            rows = session.scalars(select(StillTile).where(StillTile.still_id == self.id)).all()
        for row in rows:
            t = self.tiles[row.tile]
            sums = np.frombuffer(row.sums, "<f4").reshape(t.height, t.width, CHANNELS)
            self.sums[t.y : t.y + t.height, t.x : t.x + t.width] = sums
            self.counts[row.tile] = row.samples

    def _submit(self) -> bool:
        """Keep the workers busy with the coarsest tiles; False when nothing is left to do or wait for."""
        busy = {tile for tile, _, _ in self.pending.values()}
        workers = max(1, tracers(self.client))
        order = sorted(range(len(self.tiles)), key=lambda k: (self.counts[k], k))
        for index in order:
            if len(self.pending) > workers:
                break
            span = next((r for r in self.ranges if r[0] == self.counts[index]), None)
            if index in busy or span is None:
                continue
            future = self.client.submit(
                trace_unit, self.id, self.still.fingerprint, self.tiles[index], *span,
                key=f"{self.id}-{self.attempt}-{index}-{span[0]}", pure=False, retries=2, resources={"trace": 1},
            )  # fmt: skip
            self.pending[future] = (index, *span)
        return bool(self.pending)

    def _take(self, future: Future) -> None:
        index, start, stop = self.pending.pop(future)
        result: UnitResult = future.result()
        t: Tile = self.tiles[index]
        place = (slice(t.y, t.y + t.height), slice(t.x, t.x + t.width))
        total = self.sums[place] + result.sums
        weights = np.array([tile.width * tile.height for tile in self.tiles], np.float64)
        counts = self.counts.copy()
        counts[index] = stop
        self.meter.read(index, total[..., :3], stop)
        done = min(1.0, float(counts @ weights / (weights.sum() * self._expected())))
        self._checkpoint(index, start, stop, total, done, result.seconds)
        self.sums[place] = total
        self.counts = counts

    @again_after_deadlock
    def _checkpoint(self, index: int, start: int, stop: int, total: Sums, done: float, seconds: float) -> None:
        """Keep a tile's sums, provided that nobody else went on with it since."""
        with self.store.begin() as session:
            still = self._ours(session)
            known = session.get(StillTile, (self.id, index))
            if (known.samples if known else 0) != start:
                raise Lost
            values = {"samples": stop, "sums": total.astype("<f4").tobytes()}
            session.execute(
                insert(StillTile).values(still_id=self.id, tile=index, **values).on_duplicate_key_update(**values)
            )
            still.done, still.seconds, still.lease = done, still.seconds + seconds, utc_now() + LEASE
            still.samples, still.readings = self._expected(), json.dumps(self.meter.readings)
            still.grain = self.meter.grain(max(1, int(self.counts.min())))
            touch(session, still.review_id)

    def _expected(self) -> int:
        """Samples of the finished still, as far as that can be told."""
        expected = self.meter.samples_for(self.asked) if self.asked else None
        if expected is None:
            return self.still.samples
        return int(np.clip(expected, max(2, self.counts.min()), MOST_SAMPLES))

    def _fine_enough(self) -> bool:
        """Whether the grain that was asked for is reached, by a reading and not by a forecast from few samples."""
        done = int(self.counts.min())
        if not self.asked or done < FIRST_VERDICT:
            return False
        grain = self.meter.grain(done)
        return grain is not None and grain <= self.asked

    def _ours(self, session: Session) -> Still:
        still = session.get(Still, self.id, with_for_update=True)
        if still is None or still.state != "running" or still.attempt != self.attempt:
            raise Lost
        return still

    # -- pictures ---------------------------------------------------------------------------------------------

    def _layers(self) -> Layers:
        counts = np.zeros(self.sums.shape[:2], np.int64)
        for t, count in zip(self.tiles, self.counts, strict=True):
            counts[t.y : t.y + t.height, t.x : t.x + t.width] = count
        return Layers.from_sums(self.sums, counts)

    def _maybe_preview(self) -> None:
        """A new preview once every tile has something, and never for more than a sixth of the time."""
        if self.counts.min() == 0 or time.monotonic() - self.last_preview < max(1.5, 6 * self.preview_cost):
            return
        began = time.monotonic()
        layers = self._layers().halved() if self.still.width > PREVIEW_WIDTH else self._layers()
        pixels = develop(layers, self.look, "fast")
        self._show(to_jpeg(pixels))
        self.last_preview = time.monotonic()
        self.preview_cost = self.last_preview - began

    @again_after_deadlock
    def _show(self, jpeg: bytes) -> None:
        with self.store.begin() as session:
            still = self._ours(session)
            session.execute(insert(StillPreview).values(still_id=self.id, jpeg=jpeg).on_duplicate_key_update(jpeg=jpeg))
            still.version += 1
            touch(session, still.review_id)

    def _finish(self) -> None:
        from usual_lamp import __version__

        pixels = develop(self._layers(), self.look)
        self._show(to_jpeg(pixels, 92))
        words = {
            "Software": f"Usual Lamp {__version__}",
            "Engine": self.still.engine,
            "Samples": str(int(self.counts.min())),
            "Inputs": self.still.fingerprint,
        }
        self._hand_over(to_png(pixels, words), cover(pixels))

    @again_after_deadlock
    def _hand_over(self, png: bytes, small: bytes) -> None:
        """The finished picture into the database, in place of the checkpoints."""
        with self.store.begin() as session:
            still = self._ours(session)
            still.picture = blobs.put_bytes(session, png, "image/png")
            still.state, still.done, still.finished, still.lease = "done", 1.0, utc_now(), None
            still.samples = int(self.counts.min())
            still.grain = self.meter.grain(still.samples)
            session.query(StillTile).filter(StillTile.still_id == self.id).delete()
            review = session.get(Review, still.review_id, with_for_update=True)
            if review is not None:
                review.cover = blobs.put_bytes(session, small, "image/jpeg")
            touch(session, still.review_id)


def cover(pixels: NDArray[np.uint8]) -> bytes:
    """A small JPEG for the list of reviews."""
    from PIL import Image

    image = Image.fromarray(pixels)
    image.thumbnail(COVER_SIZE, Image.Resampling.LANCZOS)
    return to_jpeg(np.asarray(image), 88)
