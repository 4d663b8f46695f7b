"""Sums of tiles that a tracing process has at hand, for what it traces next to be added to."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

MOST = 256 * 2**20
"""Bytes; tiles beyond that are read from the database again."""


@dataclass(frozen=True)
class HeldTile:
    """The sums of a tile's first `samples` samples, (H, W, channels)."""

    sums: NDArray[np.float32]
    samples: int


class HeldTiles:
    """By still and number of the tile."""

    def __init__(self, most: int = MOST) -> None:
        self.most, self.bytes = most, 0
        self._tiles: OrderedDict[tuple[str, int], HeldTile] = OrderedDict()

    def put(self, still_id: str, number: int, tile: HeldTile) -> bool:
        """Hold it in place of what was held of that tile; whether there is room. Tiles of other stills make way."""
        self.take(still_id, number)
        others = [key for key in self._tiles if key[0] != still_id]
        while others and self.bytes + tile.sums.nbytes > self.most:
            self.take(*others.pop(0))
        if self.bytes + tile.sums.nbytes > self.most:
            return False
        self._tiles[still_id, number] = tile
        self.bytes += tile.sums.nbytes
        return True

    def get(self, still_id: str, number: int) -> HeldTile | None:
        """None for those that are not at hand."""
        return self._tiles.get((still_id, number))

    def take(self, still_id: str, number: int) -> HeldTile | None:
        """The same, and hold it no longer."""
        found = self._tiles.pop((still_id, number), None)
        self.bytes -= found.sums.nbytes if found else 0
        return found

    def clear(self) -> None:
        """Hold nothing."""
        self._tiles.clear()
        self.bytes = 0
