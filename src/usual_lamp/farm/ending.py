"""When a still is done: after its quality's samples, at the noise that was asked for, or when its time is up."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.quality import MOST_SAMPLES
from usual_lamp.core.trace.jobs.grain import GrainMeter
from usual_lamp.core.trace.plan import pass_after
from usual_lamp.store.tables import Still

FIRST, PASS = 2, 32
"""Samples of the first pass, for a picture soon, and of the longest ones: few of them, since each is handed over and
kept."""
SHORT = 16
"""Samples of the longest passes of a still that may end after each, until it has twice as many as a long one."""
FIRST_VERDICT = 16
"""Samples before which a still is not called fine enough."""


class Ending:
    """What was asked of a still. `counts` are samples by tile, `spent` the seconds of all units so far."""

    def __init__(self, still: Still) -> None:
        self.grain, self.samples = still.grain_asked, still.samples
        self.seconds = (still.minutes_asked or 0.0) * 60
        self.is_quick = still.quality == "coarse" and not self.grain and not self.seconds
        """Whether it is for a quick look."""
        self.is_now = still.ends_now
        """Whether it is to end as soon as its tiles are about as fine as each other."""
        self.most = MOST_SAMPLES if self.grain or self.seconds else self.samples
        """Samples after which it ends in any case."""

    def next_pass(self, done: int, counts: NDArray[np.int64]) -> tuple[int, int] | None:
        """Samples to trace of a tile that has so many. It may end after each pass where it ends by noise or time; where
        its samples are known, longer passes cost less."""
        if self.is_now:
            goal = self._even(counts)
            return (done, goal) if done < goal else None
        if self.grain or self.seconds:
            return pass_after(done, MOST_SAMPLES, SHORT if done < 2 * PASS else PASS)
        if done < PASS:
            return None if done >= self.samples else (done, min(PASS if done else FIRST, self.samples))
        return pass_after(done, self.samples, PASS)

    def expected(self, meter: GrainMeter, counts: NDArray[np.int64], spent: float, workers: int) -> int:
        """Samples of the finished still, as far as that can be told."""
        if self.is_now:
            return round(float(np.maximum(counts, self._even(counts)).mean()))
        found: float | None = None
        if self.seconds and spent > 0:
            found = round(float(counts.mean()) / min(1.0, spent / (self.seconds * max(1, workers))))
        elif self.grain:
            found = meter.samples_for(self.grain)
        if found is None:
            return self.samples
        return int(np.clip(found, max(2, counts.min()), MOST_SAMPLES))

    def is_reached(self, meter: GrainMeter, counts: NDArray[np.int64], spent: float, workers: int) -> bool:
        """Whether it may end before all its ranges are traced. Noise is told by a reading, not by a forecast from few
        samples; when time is up, every tile has something."""
        done = int(counts.min())
        if self.is_now:
            return done >= self._even(counts)
        if self.seconds:
            return done > 0 and spent >= self.seconds * max(1, workers)
        if not self.grain or done < FIRST_VERDICT:
            return False
        grain = meter.grain(done)
        return grain is not None and grain <= self.grain

    @staticmethod
    def _even(counts: NDArray[np.int64]) -> int:
        """Samples that each tile gets of a still that ends now: half of what most have, which is 1.4 times their grain.
        What few have beyond the others is no reason to go on; as it is, that takes half of the time so far at most,
        once all have the first pass."""
        return max(FIRST, int(np.median(counts)) // 2)
