"""The dispatcher: `python -m usual_lamp.farm.dispatcher`. Scheduler and the threads that work through the rows.

One still is traced at a time, so that the first in the queue is finished first; covers and finish plates are traced
when nobody waits for a still. Imports run beside, small files in a lane of their own. What native code does is done by
workers and sandboxed children: nothing that one row holds may end this process.
"""

from __future__ import annotations

import errno
import fcntl
import logging
import os
import signal
import threading
import time
import traceback
from collections import Counter
from collections.abc import Callable, Iterable
from datetime import timedelta
from functools import partial
from typing import IO
from urllib.parse import urlparse

import dask
from distributed import Client, SpecCluster
from sqlalchemy import ColumnElement, func, select, update

from usual_lamp.core.intake import PRELOADED
from usual_lamp.core.sandbox import Nursery, OutOfRoom
from usual_lamp.core.scene.sight import SightAnswer
from usual_lamp.farm.asking import Lost
from usual_lamp.farm.intake_run import run_intake
from usual_lamp.farm.leases import QUEUES, Queue, Row, claim, queues_with_work, release, release_all
from usual_lamp.farm.links import QuietScheduler, scheduler_address, security, tracers
from usual_lamp.farm.others_use import OthersUse
from usual_lamp.farm.still_run import ReviewRemoved, StillRun
from usual_lamp.farm.units import plate_unit, sight_unit
from usual_lamp.service import clean_up, following, shelf, tidying
from usual_lamp.service.reviews import touch_stills
from usual_lamp.store import DatabaseAway, NoRoom, Store, again_when_overtaken
from usual_lamp.store.tables import Blob, IntakeRun, Review, SightRun, Still, utc_now

POLL = 0.3
IDLE_ROUND = 3.0
"""Seconds after which a thread looks for work even when it was not woken."""
TURN_POLL = 0.05
LOOK_ROUND = 3.0
"""Seconds between looks at followed files."""
TIDY_ROUND = 3600.0
"""Seconds between rounds of tidying up."""
PLATE_SAMPLES, COARSE_SAMPLES = 16, 8
"""Samples of a finish plate, and of its first, coarse picture."""
FULL_PAUSE = 2.0
"""Seconds before what had no room, or no database, is tried again."""
TELL_EVERY = 8
"""Plates after which open desks are told; each one would make them busy."""
PLATE_TRIES = 2
QUIET = timedelta(seconds=60)
"""Without an edit, after which fine plates are traced: until then the cores belong to those who work."""
SIGHT_SECONDS = 600.0
"""After which it counts as not to be found out."""
SMALL_FILE = 4 * 2**20
"""Bytes up to which an import may go into the lane of small files."""
LANES: dict[str, tuple[int, ColumnElement[bool] | None]] = {
    "any": (1, None),
    "small": (2, IntakeRun.source.in_(select(Blob.sha256).where(Blob.size <= SMALL_FILE))),
}
"""How many imports run at once in each lane, and which."""
log = logging.getLogger("usual_lamp.dispatcher")

# A unit whose worker was killed is given to the next one; one that kills its workers is given up.
dask.config.set({"distributed.scheduler.allowed-failures": 3})


def connect() -> Client:
    """The embedded scheduler, or the one that USUAL_LAMP_SCHEDULER names on another machine. Results come from the
    workers themselves: each is some megabytes, which the scheduler would only pass on."""
    address, keys = scheduler_address(), security()
    url = urlparse(address)
    if url.hostname not in ("127.0.0.1", "localhost"):
        return Client(address, direct_to_workers=True, security=keys)
    options = {"host": url.hostname, "port": url.port, "protocol": "tls://", "security": keys, "dashboard": False}
    cluster = SpecCluster(
        workers={}, scheduler={"cls": QuietScheduler, "options": options}, security=keys, silence_logs=logging.WARNING
    )
    return Client(cluster, direct_to_workers=True, security=keys)


@again_when_overtaken
def touch_all(store: Store) -> None:
    """Let every open desk fetch the shelf again."""
    with store.begin() as session:
        session.execute(update(Review).where(Review.removed.is_(None)).values(pulse=Review.pulse + 1))


def is_worked_on(store: Store) -> bool:
    """Whether a review was changed a moment ago, be it gone by now."""
    with store.begin() as session:
        last = session.scalar(select(func.max(Review.updated)))
    return last is not None and utc_now() - last < QUIET


@again_when_overtaken
def next_still(store: Store) -> Still | None:
    """Claim the next still that someone waits for, what was put first or else the oldest; covers when there is none."""
    with store.begin() as session:
        still = claim(session, Still, Still.is_cover, Still.first.desc())
        if still is not None:
            touch_stills(session, still.review_id)
        return still


@again_when_overtaken
def let_wait(store: Store, row: Row) -> None:
    with store.begin() as session:
        release(session, row)


@again_when_overtaken
def mark_failed(store: Store, still: Still, message: str) -> None:
    """Unless it was taken over meanwhile."""
    with store.begin() as session:
        row = session.get(Still, still.id, with_for_update=True)
        if row is not None and row.state == "running" and row.attempt == still.attempt:
            row.state, row.message, row.lease = "failed", message, None
            touch_stills(session, row.review_id)


def is_passing(error: Exception) -> bool:
    """Whether it lies in the database or the disk, and not in what was worked on."""
    full = isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT)
    return full or isinstance(error, DatabaseAway | NoRoom | OutOfRoom)


class Dispatcher:
    def __init__(self, store: Store, client: Client) -> None:
        self.store, self.client = store, client
        self.closing = threading.Event()
        self.plate_failures: Counter[str] = Counter()
        self.nursery = Nursery(*PRELOADED)
        self.fine_plate_begun = 0.0
        """When the last one was begun, in monotonic seconds; 0 before the first."""
        self.others = OthersUse()
        self.bells: dict[Queue, list[threading.Event]] = {queue: [] for queue in QUEUES}

    def run(self) -> None:
        while not self._done("taking over", partial(release_all, self.store)):
            if self.closing.wait(POLL):
                return
        loops: list[tuple[Callable[[], bool], Queue | None]] = [(self.look_round, None), (self.tidy_up, None)]
        loops += [(self.one_still, Still), (self.one_sight, SightRun)]
        for count, where in LANES.values():
            loops += [(partial(self.one_intake, where), IntakeRun)] * count
        threads = [threading.Thread(target=self._forever, args=loop, daemon=True) for loop in loops]
        for thread in threads:
            thread.start()
        while not self.closing.wait(POLL):
            if not all(thread.is_alive() for thread in threads):
                raise RuntimeError("a dispatcher thread ended")
            self._done("looking for work", self.wake)
        self._wake(QUEUES)
        for thread in threads:
            thread.join(6)
        self.nursery.close()

    def wake(self) -> None:
        """Wake the threads whose queues hold work; one question for all of them keeps an idle program quiet."""
        self._wake(queues_with_work(self.store))

    def _wake(self, queues: Iterable[Queue]) -> None:
        for queue in queues:
            for bell in self.bells[queue]:
                bell.set()

    def _forever(self, work: Callable[[], bool], queue: Queue | None) -> None:
        """Work, rest until woken, and go on whatever happens: a database that is away is waited for."""
        bell = threading.Event()
        if queue is not None:
            self.bells[queue].append(bell)
        while not self.closing.is_set():
            found: list[bool] = []
            bell.clear()
            if not self._done("working", lambda found=found: found.append(work())):  # type: ignore[misc]
                self.closing.wait(1.0)
            elif not found[0]:
                bell.wait(IDLE_ROUND)

    def _done(self, doing: str, work: Callable[[], object]) -> bool:
        """Whether it went through; what went wrong is in the log."""
        try:
            work()
        except (DatabaseAway, NoRoom) as error:
            log.warning("%s: %s", doing, error)
            return False
        except Exception:
            log.error("%s", traceback.format_exc())
            return False
        return True

    def look_round(self) -> bool:
        """Look at followed files."""
        self.closing.wait(LOOK_ROUND)
        following.look_round(self.store)
        return True

    def tidy_up(self) -> bool:
        """Collect what nothing refers to any more, now and then; at first a while after the start."""
        if not self.closing.wait(TIDY_ROUND):
            log.info("tidied up: %s", tidying.tidy(self.store).in_words())
        return True

    def _let_wait(self, row: Row) -> None:
        """Put a row back as soon as the database is there."""
        while not self._done("putting back", partial(let_wait, self.store, row)) and not self.closing.wait(POLL):
            continue

    def one_still(self) -> bool:
        """Trace the next still; with none waiting, the next finish plate."""
        still = next_still(self.store)
        if still is None:
            return self.one_plate()
        try:
            StillRun(self.store, self.client, still, self.closing.is_set).run()
        except ReviewRemoved:
            self._let_wait(still)
        except Lost:
            log.info("still %s left", still.id)
        except Exception as error:
            if is_passing(error):
                log.warning("still %s waits: %s", still.id, error)
                self._let_wait(still)
                self.closing.wait(FULL_PAUSE)
                return True
            log.error("%s", traceback.format_exc())
            mark_failed(self.store, still, f"Tracing failed: {error}. Resume to try again.")
        return True

    def one_plate(self) -> bool:
        """Trace the next finish plate: first coarsely those that did not come with the program, then, when nobody
        works and the machine has room, all of them finely."""
        missing = [plate for plate in shelf.missing_plates(self.store) if self.plate_failures[plate.key] < PLATE_TRIES]
        if missing and shelf.keep_first_plates(self.store, missing):
            touch_all(self.store)
            return True
        if not missing or not tracers(self.client):
            return False
        sample, coarse, key = missing[0]
        if not coarse:
            # A plate just traced counts as well: on two cores the next one waits for a look after a rest.
            self.others.look()
            if self.others.keep_waiting(self.fine_plate_begun) or is_worked_on(self.store):
                return False
            self.fine_plate_begun = time.monotonic()
        size, samples = (shelf.COARSE_PLATE, COARSE_SAMPLES) if coarse else (shelf.LARGEST_PLATE, PLATE_SAMPLES)
        future = self.client.submit(
            plate_unit, sample.model_dump_json(), size, samples, pure=False, resources={"trace": 1}
        )
        try:
            plate = future.result(timeout=300)
        except DatabaseAway:
            raise
        except Exception:
            # One sample that cannot be traced must not keep the others from their plates.
            self.plate_failures[key] += 1
            raise
        shelf.keep_plate(self.store, key, plate)
        if len(missing) % TELL_EVERY == 1:
            touch_all(self.store)
        return True

    def one_intake(self, where: ColumnElement[bool] | None = None) -> bool:
        """Do the next import of a lane."""
        with self.store.begin() as session:
            run = claim(session, IntakeRun, where=where)
        if run is None:
            return False
        try:
            run_intake(self.store, run, self.closing.is_set, self.nursery)
        except Exception as error:
            if is_passing(error):
                log.warning("import %s waits: %s", run.id, error)
                self._let_wait(run)
                self.closing.wait(FULL_PAUSE)
            else:
                log.error("%s", traceback.format_exc())
                self._intake_failed(run)
        return True

    @again_when_overtaken
    def _intake_failed(self, run: IntakeRun) -> None:
        with self.store.begin() as session:
            row = session.get(IntakeRun, run.id, with_for_update=True)
            if row is not None and row.state == "running" and row.attempt == run.attempt:
                row.state, row.lease = "failed", None
                row.message = "The import failed for a reason of ours; the log has the details. Try again."

    def one_sight(self) -> bool:
        """Let a worker find out who can be seen in one arrangement."""
        if not tracers(self.client):
            return False
        with self.store.begin() as session:
            row = claim(session, SightRun)
        if row is None:
            return False
        future = self.client.submit(sight_unit, row.question, pure=False, resources={"trace": 1})
        try:
            found = SightAnswer.model_validate_json(future.result(timeout=SIGHT_SECONDS))
        except DatabaseAway:
            self._let_wait(row)
            return True
        except Exception:  # a crash of the worker among them
            log.error("%s", traceback.format_exc())
            found = None
        finally:
            future.cancel(force=True)
        clean_up.answer(self.store, row.key, row.attempt, found)
        return True


def await_turn(store: Store) -> IO[bytes]:
    """Wait until no other dispatcher of this home lives; the answer, kept open, is the turn.

    A second one waits here with all its modules loaded, and takes over in the moment in which the first one ends.
    """
    lock = (store.cache / "dispatcher.lock").open("ab")
    while True:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            return lock
        except BlockingIOError:
            time.sleep(TURN_POLL)


def main() -> None:
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(name)s %(message)s")
    logging.getLogger("distributed").setLevel(logging.WARNING)
    store = Store.from_environment()
    with await_turn(store), connect() as client:
        dispatcher = Dispatcher(store, client)
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: dispatcher.closing.set())
        dispatcher.run()
        os._exit(0)


if __name__ == "__main__":
    main()
