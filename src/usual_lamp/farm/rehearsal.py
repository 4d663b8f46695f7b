"""What a lamp does that nobody asks: it gets ready for the review that was worked on last, and for what may come there.

A spare takes over from one moment to the next. What is kept of a scene in this process is there then, and its kernel;
and those kernels are on disk, where the working lamp finds them too, that the scene will need when a part is given a
kind of surface that is new in it.
"""

from __future__ import annotations

import hashlib
import logging
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import datetime
from pathlib import Path

from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.scene import inputs_of
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.jobs.ahead import kernel_with, likely_next, wearing
from usual_lamp.core.trace.jobs.live import LivePicture
from usual_lamp.farm.others_use import OthersUse
from usual_lamp.service import editing, reviews
from usual_lamp.service.resolving import Resolutions
from usual_lamp.store import DatabaseAway, Store

SIZE = (64, 48)
"""Pixels."""
EVERY = 5.0
"""Seconds between two looks at the review. What was edited between them is left for the next: somebody is at work."""
MOST_PARTS = 500
"""Shown, beyond which no kernels are compiled ahead: each takes a scene of its own."""
log = logging.getLogger("usual_lamp.lamp")


class Rehearsal:
    """The review that was worked on last, traced small."""

    def __init__(self, store: Store, resolutions: Resolutions, new_picture: Callable[[], LivePicture]) -> None:
        self.store, self.resolutions, self.new_picture = store, resolutions, new_picture
        self.inputs: TraceInputs | None = None
        self.picture = new_picture()
        self.looked = 0.0
        self.seen: tuple[str, datetime] | None = None
        """The review that was edited last, and when, as of the last look."""
        self.due = False
        """Whether it has been edited since it was traced."""
        self.left: list[tuple[Appearance, str]] = []
        """Samples that need another kernel than the scene as it is, and which one."""
        self.followed = self.compiled = 0.0
        """When it was traced last, and when the last of these kernels was begun."""
        self.others = OthersUse()

    def step(self) -> bool:
        """Do a little; whether there was something to do."""
        if time.monotonic() - self.looked < EVERY:
            return self._compile()
        self.looked = time.monotonic()
        self.others.look()
        latest = self._latest()
        if latest != self.seen:
            self.seen, self.due = latest, True
            return False
        if not self.due or self.others.keep_waiting(self.followed):
            return False
        self.due = False
        return self.follow()

    def _latest(self) -> tuple[str, datetime] | None:
        with suppress(DatabaseAway):
            for review in reviews.list_reviews(self.store):
                return review.id, review.updated
        return None

    def follow(self) -> bool:
        """Trace the review as it is now, unless that is done. Whether there was something to do."""
        try:
            latest = self._latest()
            if latest is None:
                return False
            found = editing.look_at(self.store, latest[0])
            shot = found.scene.shots[found.scene.ordered_shots()[0]]
            inputs = inputs_of(self.resolutions.resolved(latest[0], found), shot, SIZE)
            if inputs == self.inputs:
                return False
            self.inputs = inputs
            self.picture.follow(inputs)
            self.picture.step()
            world = self.picture.world
            assert world is not None
            samples = likely_next(world, SHELF.values()) if len(inputs.parts) <= MOST_PARTS else []
            self.left = [(sample, kernel_with(world, sample)) for sample in samples]
        except Exception as error:  # whatever is wrong there is told when the lamp is asked for it
            log.info("no rehearsal: %s", error)
            self.left = []
            return False
        finally:
            self.looked = self.followed = time.monotonic()
        return True

    def _compile(self) -> bool:
        """Compile one kernel that may be needed next and was never compiled here. Whether there was one, and others
        left room for it."""
        while self.left and self.inputs is not None:
            if self.others.keep_waiting(self.compiled):
                return False
            sample, kernel = self.left.pop(0)
            if not self._claim(kernel):
                continue
            self.compiled = time.monotonic()
            try:
                trial = self.new_picture()
                trial.follow(wearing(self.inputs, sample))
                trial.step()
            except Exception as error:
                log.info("no kernel for %s: %s", sample.name, error)
            return True
        return False

    def _claim(self, kernel: str) -> bool:
        """Whether this kernel is ours to compile: it is done once, by whichever process comes first."""
        name = hashlib.sha256(f"{ENGINE_VERSION} {kernel}".encode()).hexdigest()[:32]
        folder = Path(self.store.cache, "kernels")
        try:
            folder.mkdir(mode=0o700, exist_ok=True)
            (folder / name).touch(mode=0o600, exist_ok=False)
        except OSError:
            return False
        return True
