"""Tiles at hand: what fits is held, the newest of a tile, and what one still holds makes way for another."""

from __future__ import annotations

import numpy as np

from usual_lamp.farm.held_tiles import HeldTile, HeldTiles

SUMS = np.ones((4, 4, 2), np.float32)


def test_tiles_are_held_as_far_as_there_is_room() -> None:
    held = HeldTiles(most=2 * SUMS.nbytes)
    assert held.put("a", 0, HeldTile(SUMS, 2)) and held.put("a", 1, HeldTile(SUMS, 2))
    assert not held.put("a", 2, HeldTile(SUMS, 2)), "no room for the third"
    assert held.put("a", 1, HeldTile(SUMS * 2, 4))
    newer = held.get("a", 1)
    assert newer is not None and newer.samples == 4 and newer.sums[0, 0, 0] == 2 and held.bytes == 2 * SUMS.nbytes
    assert not held.put("a", 0, HeldTile(np.ones((8, 8, 2), np.float32), 2))
    assert held.get("a", 0) is None, "larger than the room: the stale one must not stay either"
    taken = held.take("a", 1)
    assert taken is newer and held.bytes == 0 and held.take("a", 1) is None


def test_what_another_still_holds_makes_way() -> None:
    held = HeldTiles(most=2 * SUMS.nbytes)
    held.put("a", 0, HeldTile(SUMS, 2))
    held.put("a", 1, HeldTile(SUMS, 2))
    assert held.put("b", 0, HeldTile(SUMS, 2)) and held.get("a", 0) is None and held.get("a", 1) is not None
    held.clear()
    assert held.bytes == 0 and held.get("b", 0) is None
