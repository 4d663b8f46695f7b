"""Drawing one of many pieces by its power: running sums, inverted.

Inverting keeps well-spread random numbers well spread. The search for a number looks only between the pieces that its
n-th begins and ends at (the cutpoint method, H.-C. Chen and Y. Asau, "On Generating Random Variates from an Empirical
Distribution", AIIE Transactions 6(2), 1974).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.trace.engine import aligned, dr, mi, settled


class RunningSums:
    """Lines of pieces, each piece with a share of its line's power."""

    def __init__(self, power: NDArray[np.float64]) -> None:
        """`power` is (lines, pieces), at least 0; of pieces there is a power of two. A line without power is taken as
        its first piece alone."""
        self.pieces = power.shape[1]
        sums = np.cumsum(power, axis=1)
        shines = sums[:, -1:] > 0
        shares = np.where(shines, sums / np.where(shines, sums[:, -1:], 1.0), 1.0)
        sums = np.concatenate([np.zeros_like(shares[:, :1]), shares], axis=1).astype(np.float32)
        self.shares = np.diff(sums, axis=1)
        """(lines, pieces): the share of each, as it is drawn."""
        cuts = np.arange(self.pieces + 1, dtype=np.float32) / self.pieces
        begins = np.stack([np.searchsorted(line, cuts, side="right") - 1 for line in sums])
        begins = np.minimum(begins, self.pieces - 1).astype(np.uint32)
        self._sums, self._begins = settled(sums), mi.UInt32(aligned(begins.ravel()))
        dr.make_opaque(self._begins)

    @staticmethod
    def padded(power: NDArray[np.float64], room: int = 1) -> RunningSums:
        """One line of any number of pieces, with room for at least so many: kernels differ by the number there is room
        for."""
        pieces = 1 << max(0, int(np.ceil(np.log2(max(len(power), room)))))
        return RunningSums(np.pad(power, (0, pieces - len(power)))[None])

    def inverted(self, line: mi.UInt32, value: mi.Float, active: mi.Bool) -> tuple[mi.UInt32, mi.Float, mi.Float]:
        """The piece of a line in whose running sums a value (0 to 1, less than 1) lies, where in it, 0 to 1, and its
        share."""
        first = line * (self.pieces + 1)
        part = first + dr.minimum(mi.UInt32(value * self.pieces), self.pieces - 1)
        low, high = (dr.gather(mi.UInt32, self._begins, part + k, active) for k in (0, 1))

        def halve(low: mi.UInt32, high: mi.UInt32) -> tuple[mi.UInt32, mi.UInt32]:
            """The half of the pieces from low to high that the value lies in."""
            middle = (low + high + 1) >> 1
            beyond = dr.gather(mi.Float, self._sums, first + middle, active) <= value
            return dr.select(beyond, middle, low), dr.select(beyond, high, middle - 1)

        found, _ = dr.while_loop((low, high), lambda low, high: active & (low < high), halve, label="search")
        below, above = (dr.gather(mi.Float, self._sums, first + found + k, active) for k in (0, 1))
        share = above - below
        return found, dr.clip((value - below) / dr.maximum(share, 1e-12), 0.0, 1.0), share
