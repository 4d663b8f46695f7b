"""The dispatcher: `python -m usual_lamp.farm.dispatcher`. Scheduler and the threads that work through the rows.

One still is traced at a time, so that the first in the queue is finished first; intakes run beside it; finish
plates are traced when nothing else waits.
"""

from __future__ import annotations

import logging
import os
import signal
import threading
import time
import traceback
from collections.abc import Callable
from functools import partial
from urllib.parse import urlparse

import dask
from distributed import Client, LocalCluster
from sqlalchemy import update

from usual_lamp.core.scene.sight import SightQuestion, answer_sight
from usual_lamp.farm.intake_run import run_intake
from usual_lamp.farm.leases import claim, release_all
from usual_lamp.farm.still_run import Lost, StillRun
from usual_lamp.farm.units import plate_unit, tracers
from usual_lamp.service import clean_up, following, meshes, shelf
from usual_lamp.service.reviews import touch
from usual_lamp.store import Store, again_after_deadlock
from usual_lamp.store.tables import IntakeRun, Review, Sight, Still

POLL = 0.3
LOOK_ROUND = 3.0
"""Seconds between looks at followed files."""
PLATE_SAMPLES, COARSE_SAMPLES = 32, 4
"""Samples of a finish plate, and of its first, coarse picture."""
TELL_EVERY = 8
"""Plates after which open desks are told; each one would make them busy."""
log = logging.getLogger("usual_lamp.dispatcher")

# A unit whose worker was killed is simply given to the next one.
dask.config.set({"distributed.scheduler.allowed-failures": 20, "distributed.comm.timeouts.connect": "10s"})


def connect() -> Client:
    """The embedded scheduler, or the one that USUAL_LAMP_SCHEDULER names on another machine."""
    address = os.environ.get("USUAL_LAMP_SCHEDULER", "tcp://127.0.0.1:8302")
    url = urlparse(address)
    if url.hostname not in ("127.0.0.1", "localhost"):
        return Client(address)
    cluster = LocalCluster(
        n_workers=0,
        host=url.hostname,
        scheduler_port=url.port,
        dashboard_address=None,
        silence_logs=logging.WARNING,
    )
    return Client(cluster)


@again_after_deadlock
def touch_all(store: Store) -> None:
    """Let every open desk fetch the shelf again."""
    with store.begin() as session:
        session.execute(update(Review).where(Review.removed.is_(None)).values(pulse=Review.pulse + 1))


@again_after_deadlock
def next_still(store: Store) -> Still | None:
    """Claim the next still: covers first, then the oldest."""
    with store.begin() as session:
        still = claim(session, Still, Still.is_cover.desc())
        if still is not None:
            touch(session, still.review_id)
        return still


@again_after_deadlock
def mark_failed(store: Store, still: Still, message: str) -> None:
    """Unless it was taken over meanwhile."""
    with store.begin() as session:
        row = session.get(Still, still.id, with_for_update=True)
        if row is not None and row.state == "running" and row.attempt == still.attempt:
            row.state, row.message, row.lease = "failed", message, None
            touch(session, row.review_id)


class Dispatcher:
    def __init__(self, store: Store, client: Client) -> None:
        self.store, self.client = store, client
        self.closing = threading.Event()
        self.failed_plates: set[str] = set()

    def run(self) -> None:
        release_all(self.store)
        loops: list[Callable[[], bool]] = [self.one_still, self.one_intake, self.one_sight]
        threads = [threading.Thread(target=self._forever, args=(work,), daemon=True) for work in loops]
        for thread in threads:
            thread.start()
        looked = 0.0
        while not self.closing.wait(0.5):
            if time.monotonic() - looked > LOOK_ROUND:
                looked = time.monotonic()
                following.look_round(self.store)
            if not all(thread.is_alive() for thread in threads):
                raise RuntimeError("a dispatcher thread ended")
        for thread in threads:
            thread.join(6)

    def _forever(self, work: Callable[[], bool]) -> None:
        while not self.closing.is_set():
            try:
                busy = work()
            except Exception:
                log.error("%s", traceback.format_exc())
                busy = False
                time.sleep(1.0)
            if not busy:
                self.closing.wait(POLL)

    def one_still(self) -> bool:
        """Trace the next still; with none waiting, the next finish plate."""
        still = next_still(self.store)
        if still is None:
            return self.one_plate()
        try:
            StillRun(self.store, self.client, still, self.closing.is_set).run()
        except Lost:
            log.info("still %s left", still.id)
        except Exception as error:
            log.error("%s", traceback.format_exc())
            mark_failed(self.store, still, f"Tracing failed: {error}. Resume to try again.")
        return True

    def one_plate(self) -> bool:
        """Trace the next finish plate: first all of them coarsely, then finely."""
        missing = [
            (sample, coarse)
            for sample, coarse in shelf.missing_plates(self.store)
            if shelf.plate_key(sample, coarse) not in self.failed_plates
        ]
        if not missing or not tracers(self.client):
            return False
        sample, coarse = missing[0]
        samples = COARSE_SAMPLES if coarse else PLATE_SAMPLES
        future = self.client.submit(
            plate_unit, sample.model_dump_json(), shelf.LARGEST_PLATE, samples, pure=False, resources={"trace": 1}
        )
        key = shelf.plate_key(sample, coarse)
        try:
            shelf.keep_plate(self.store, key, future.result(timeout=300))
        except Exception:
            # One sample that cannot be traced must not keep the others from their plates.
            self.failed_plates.add(key)
            raise
        if len(missing) % TELL_EVERY == 1:
            touch_all(self.store)
        return True

    def one_intake(self) -> bool:
        with self.store.begin() as session:
            run = claim(session, IntakeRun)
        if run is None:
            return False
        try:
            run_intake(self.store, run, self.closing.is_set)
        except Exception as error:
            log.error("%s", traceback.format_exc())
            with self.store.begin() as session:
                row = session.get(IntakeRun, run.id, with_for_update=True)
                if row is not None and row.state == "running":
                    row.state, row.message = "failed", f"The intake failed: {error}. Try again."
        return True

    def one_sight(self) -> bool:
        """Find out who can be seen in one arrangement."""
        with self.store.begin() as session:
            row = claim(session, Sight)
        if row is None:
            return False
        try:
            question = SightQuestion.model_validate_json(row.question)
            found = answer_sight(question, partial(meshes.read, self.store))
        except Exception:
            log.error("%s", traceback.format_exc())
            found = None
        clean_up.answer(self.store, row.key, row.attempt, found)
        return True


def main() -> None:
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(name)s %(message)s")
    logging.getLogger("distributed").setLevel(logging.WARNING)
    with connect() as client:
        dispatcher = Dispatcher(Store.from_environment(), client)
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: dispatcher.closing.set())
        dispatcher.run()
    os._exit(0)


if __name__ == "__main__":
    main()
