"""Sums of a tile as bytes: the same numbers again, and less where much of it is 0."""

from __future__ import annotations

import numpy as np
import pytest

from usual_lamp.core.trace.sum_bytes import from_bytes, to_bytes


@pytest.mark.parametrize(("height", "width", "channels"), [(1, 1, 3), (3, 5, 12), (16, 9, 45), (8, 8, 99)])
@pytest.mark.parametrize("share", [0.0, 0.4, 1.0])
def test_sums_come_back_as_they_were(height: int, width: int, channels: int, share: float) -> None:
    rng = np.random.default_rng(height + channels)
    sums = rng.normal(0, 1e4, (height, width, channels)).astype(np.float32)
    sums[rng.random(sums.shape) >= share] = 0
    again = from_bytes(to_bytes(sums), height, width)
    assert np.array_equal(again, sums) and again.flags.writeable
    assert np.array_equal(from_bytes(sums.tobytes(), height, width), sums), "as the version before wrote them"


def test_what_is_0_takes_a_bit_a_colour() -> None:
    sums = np.zeros((64, 64, 45), np.float32)
    assert len(to_bytes(sums)) == 1 + 64 * 64 * 15 // 8
    sums[:, :32, 3:6] = 0.5
    assert len(to_bytes(sums)) == 1 + 64 * 64 * 15 // 8 + 64 * 32 * 12
