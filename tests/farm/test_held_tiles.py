"""Checkpoints at hand: what fits is kept, the newest of a tile, and no more than there is room for."""

from __future__ import annotations

import numpy as np

from usual_lamp.farm.held_tiles import HeldTiles


def test_tiles_are_held_as_far_as_there_is_room() -> None:
    sums = np.ones((4, 4, 2), np.float32)
    held = HeldTiles(most=2 * sums.nbytes)
    held.put(0, sums)
    held.put(1, sums)
    held.put(2, sums)
    assert held.get(2) is None and held.get(1) is sums, "no room for the third"
    held.put(1, sums * 2)
    newer = held.get(1)
    assert newer is not None and newer[0, 0, 0] == 2 and held.bytes == 2 * sums.nbytes
    held.put(0, np.ones((8, 8, 2), np.float32))
    assert held.get(0) is None, "larger than the room: the stale one must not stay either"
    held.put(2, sums)
    assert held.get(2) is sums and held.bytes == 2 * sums.nbytes
