"""Keeps a tracing process within the cores and the memory that the settings give it."""

from __future__ import annotations

import os
import time
from contextlib import suppress

from usual_lamp.service import settings
from usual_lamp.store import DatabaseAway, Store

LOOK_AGAIN = 2.0
"""Seconds after which the settings are read again."""
CPUS = sorted(os.sched_getaffinity(0))


class Limits:
    """Of this process; `apply` is cheap and may be called before every block of work."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.allowed = settings.machine()
        self._next_look, self._cores = 0.0, len(CPUS)

    def apply(self, share: float = 1.0) -> None:
        """Hold to the cores that the settings give, or to a share of them."""
        if time.monotonic() >= self._next_look:
            self._next_look = time.monotonic() + LOOK_AGAIN
            with suppress(DatabaseAway):  # then what held so far goes on holding
                self.allowed = settings.tracing(self.store)
        cores = max(1, int(share * self.allowed.cores))
        if cores != self._cores:
            self._cores = cores
            hold_to(cores)

    def memory_is_short(self) -> bool:
        """Whether the process has more in memory than it may."""
        return resident() > self.allowed.memory


def hold_to(cores: int) -> None:
    """Let every thread of this process run on so many cores only, whichever library it belongs to."""
    for thread in os.listdir("/proc/self/task"):
        try:
            os.sched_setaffinity(int(thread), CPUS[: max(1, cores)])
        except ProcessLookupError:
            continue  # it ended meanwhile


def resident() -> float:
    """Memory of this process, GB."""
    with open("/proc/self/statm", "rb") as file:
        pages = int(file.read().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 2**30
