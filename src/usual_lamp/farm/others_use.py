"""How busy the machine is with other things: what nobody waits for is done while it is not."""

from __future__ import annotations

import os
import time
from pathlib import Path

MOST_USED = 0.4
"""Share of all cores' time beyond which work that can wait does."""
PATIENCE = 180.0
"""Seconds after which a piece of it is done all the same."""


class OthersUse:
    """How much of the machine's time others than this process use, from one look to the next."""

    def __init__(self) -> None:
        self.seconds, self.used = self._times()
        self.share = 1.0
        """Of the time of all cores, as of the last look; all of it before the first."""

    def look(self) -> None:
        """Find out how much it was since the last look, in `share`."""
        seconds, used = self._times()
        if seconds > self.seconds:
            self.share = (used - self.used) / (seconds - self.seconds)
            self.seconds, self.used = seconds, used

    def keep_waiting(self, begun: float) -> bool:
        """Whether work that can wait should, when a piece of it was begun last at `begun` (monotonic seconds)."""
        return self.share > MOST_USED and time.monotonic() - begun < PATIENCE

    @staticmethod
    def _times() -> tuple[float, float]:
        """Seconds that the machine's cores have had, and what others used of them (proc(5), stat). What the host of a
        virtual machine took for itself counts as used."""
        ticks = [int(text) for text in Path("/proc/stat").read_text().split(maxsplit=9)[1:9]]
        idle = ticks[3] + ticks[4]  # waiting for a disk is no work
        second = os.sysconf("SC_CLK_TCK")
        return sum(ticks) / second, (sum(ticks) - idle) / second - time.process_time()
