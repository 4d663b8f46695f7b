"""Checkpoints at hand: sums of tiles that the database has as well, for what is traced next to be added to."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

MOST = 256 * 2**20
"""Bytes; tiles beyond that are read from the database again."""


class HeldTiles:
    """By number of the tile."""

    def __init__(self, most: int = MOST) -> None:
        self.most, self.bytes = most, 0
        self._sums: dict[int, NDArray[np.float32]] = {}

    def put(self, tile: int, sums: NDArray[np.float32]) -> None:
        """Keep them in place of earlier ones, if there is room."""
        known = self._sums.pop(tile, None)
        self.bytes -= 0 if known is None else known.nbytes
        if self.bytes + sums.nbytes <= self.most:
            self._sums[tile] = sums
            self.bytes += sums.nbytes

    def get(self, tile: int) -> NDArray[np.float32] | None:
        """None for those that are in the database only."""
        return self._sums.get(tile)
