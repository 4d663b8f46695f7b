"""One intake on the farm: the upload as a file, the sandboxed child, and what it found into the database."""

from __future__ import annotations

import math
import shutil
import tempfile
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from usual_lamp.core.intake import IntakeError, Watch, smooth_again, take_in, tessellate_again
from usual_lamp.core.sandbox import Nursery
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.farm.leases import LEASE
from usual_lamp.service import intakes, models, revisions, stills, tessellating
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.store import DatabaseAway, Store, blobs
from usual_lamp.store.tables import IntakeRun, utc_now


def run_intake(
    store: Store, run: IntakeRun, closing: Callable[[], bool] = lambda: False, nursery: Nursery | None = None
) -> None:
    """Do what the run is for; the row ends as done, ready, failed or stopped, unless the program is closing."""
    tracker = Tracker(store, run.id, run.attempt, closing)
    watch = Watch(progress=tracker.progress, cancelled=tracker.cancelled, nursery=nursery)
    with tempfile.TemporaryDirectory(prefix="usual-lamp-intake-", dir=store.cache) as name:
        try:
            work = _tessellate if run.purpose == "tessellate" else _read
            work(store, run, Path(name), tracker, watch)
        except (IntakeError, Refused, NotFound) as error:
            if not tracker.cancelled():
                tracker.fail(str(error))


def _read(store: Store, run: IntakeRun, folder: Path, tracker: Tracker, watch: Watch) -> None:
    source = folder / f"source{Path(run.file_name).suffix.lower()}"
    shutil.copyfile(blobs.local(store, run.source or ""), source)
    reading = intakes.reading_of(run)
    result = take_in(
        source, folder / "out", name=run.name,
        quality=run.quality, unit=run.unit, up=run.up,  # type: ignore[arg-type]
        chord=reading.chord, angle=math.radians(reading.angle) if reading.angle else None, variant=reading.variant,
        watch=watch,
    )  # fmt: skip
    tracker.progress(0.99, "keeping it")
    review_id = intakes.keep(store, run.id, run.attempt, result)
    if review_id is not None:
        stills.take(store, review_id, DEFAULT_SHOT, "coarse", (480, 360), cover=True)
    elif run.purpose == "add":
        models.add_found(store, run.id, run.attempt)
    elif run.purpose == "replace":
        revisions.propose(store, run.id, run.attempt)


def _tessellate(store: Store, run: IntakeRun, folder: Path, tracker: Tracker, watch: Watch) -> None:
    asked = tessellating.asked_of(store, run.id)
    if asked.smoothing is not None:
        meshes = {key: blobs.local(store, asked.assembly.definitions[key].mesh) for key in asked.wanted}
        how = asked.smoothing
        result = smooth_again(asked.assembly, meshes, how.crease, how.flip, folder / "out", watch)
        tessellating.keep(store, run.id, run.attempt, result)
        return
    exact = {key: blobs.local(store, asked.assembly.definitions[key].shape or "") for key in asked.wanted}
    result = tessellate_again(asked.assembly, exact, asked.wanted, folder / "out", watch)
    tracker.progress(0.99, "keeping it")
    tessellating.keep(store, run.id, run.attempt, result)


LOOK_AGAIN = 0.25
"""Seconds between looks whether someone has stopped it."""


class Tracker:
    """Writes progress to the row a few times a second and reads from it whether to stop."""

    def __init__(self, store: Store, run_id: str, attempt: int, closing: Callable[[], bool]) -> None:
        self.store, self.run_id, self.attempt, self.closing = store, run_id, attempt, closing
        self.last_write = self.last_read = 0.0
        self.lost = False

    def _row(self, session) -> IntakeRun | None:  # type: ignore[no-untyped-def]
        run = session.get(IntakeRun, self.run_id, with_for_update=True)
        if run is None or run.state != "running" or run.attempt != self.attempt:
            self.lost = True
            return None
        return run  # type: ignore[no-any-return]

    def progress(self, share: float, stage: str) -> None:
        if time.monotonic() - self.last_write < 0.3:
            return
        self.last_write = time.monotonic()
        # A database that is away for a moment is no reason to read the file anew.
        with suppress(DatabaseAway), self.store.begin() as session:
            if run := self._row(session):
                run.progress, run.stage, run.lease = share, stage, utc_now() + LEASE

    def cancelled(self) -> bool:
        if self.closing():
            return True
        if time.monotonic() - self.last_read > LOOK_AGAIN:
            self.last_read = time.monotonic()
            with suppress(DatabaseAway), self.store.begin() as session:
                if run := self._row(session):
                    run.lease = utc_now() + LEASE
        return self.lost

    def fail(self, message: str) -> None:
        with self.store.begin() as session:
            if run := self._row(session):
                run.state, run.message, run.lease = "failed", message, None
