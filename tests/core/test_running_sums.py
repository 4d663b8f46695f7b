"""Pieces are drawn by their power, and a value lies where a plain search of the running sums finds it."""

import numpy as np
import pytest

from usual_lamp.core.trace.engine import mi
from usual_lamp.core.trace.world.running_sums import RunningSums


@pytest.mark.parametrize("pieces", [1, 2, 64, 512])
def test_values_lie_where_a_plain_search_finds_them(pieces: int) -> None:
    random = np.random.default_rng(pieces)
    power = random.random((3, pieces)) ** 8 + (0.0 if pieces > 2 else 0.1)
    power[:, pieces // 3 : pieces // 2] = 0.0
    sums, line = RunningSums(power), 2
    values = np.sort(random.random(5000)).astype(np.float32)
    found, within, share = sums.inverted(mi.UInt32(line), mi.Float(values), mi.Bool(True))
    edges = np.concatenate([[0.0], np.cumsum(power[line]) / power[line].sum()])
    there, inside = found.numpy(), within.numpy()
    np.testing.assert_allclose(edges[there] + inside * np.diff(edges)[there], values, atol=1e-6)
    assert (power[line][there] > 0).all() and (np.diff(there.astype(int)) >= 0).all()
    np.testing.assert_allclose(share.numpy(), np.diff(edges)[there], atol=1e-6)
    np.testing.assert_array_equal(share.numpy(), sums.shares[line][there])
    counts = np.bincount(there, minlength=pieces) / len(values)
    assert np.abs(counts - power[line] / power[line].sum()).max() < 0.03


def test_room_beyond_the_pieces_is_never_drawn() -> None:
    values = mi.Float(np.append(np.arange(1000) / 1000, 0.99999994).astype(np.float32))
    for power, last in (([1.0, 3.0, 2.0], 2), ([0.0], 0)):
        sums = RunningSums.padded(np.array(power), room=5)
        assert sums.pieces == 8
        assert sums.inverted(mi.UInt32(0), values, mi.Bool(True))[0].numpy().max() == last
