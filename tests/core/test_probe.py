"""A probe of some pixels tells the grain of the whole picture; blocks lie within it and cover it evenly."""

from __future__ import annotations

import numpy as np
import pytest

from core.test_layers import CAMERA, EVEN
from core.test_trace import appearance, sphere, square, world
from usual_lamp.core.trace.jobs.grain import GrainMeter
from usual_lamp.core.trace.jobs.outlook import BEGINS, Forecast, Probe
from usual_lamp.core.trace.jobs.probe import BLOCK, BLOCKS, probing, spread_blocks
from usual_lamp.core.trace.plan import Tile, passes
from usual_lamp.core.trace.transport.tiles import trace_block


@pytest.mark.parametrize("size", [(64, 64), (640, 480), (3000, 200), (200, 5000)])
def test_blocks_lie_in_the_picture(size: tuple[int, int]) -> None:
    width, height = size
    pixels = spread_blocks(width, height)
    assert len(set(pixels)) == len(pixels) and pixels.max() < width * height
    if width * height < BLOCKS * BLOCK**2:
        assert len(pixels) == width * height, "all of a small picture"
        return
    assert len(pixels) == pytest.approx(BLOCKS * BLOCK**2, rel=0.1)
    y, x = np.divmod(pixels, width)
    for values, side in ((x, width), (y, height)):
        halves = np.histogram(values, bins=2, range=(0, side))[0] / len(pixels)
        assert halves == pytest.approx([0.5, 0.5], abs=0.05)


def test_a_probe_tells_the_grain_of_the_whole_picture() -> None:
    """Within 25 percent, two doublings on, as of the twelve scenes that it was tried on."""
    size = (280, 210)
    wear = [appearance(base_metalness=1.0, specular_roughness=0.3), appearance(coat_weight=1.0)]
    plate = square(16.0, -9.5)
    w = world({"ball": sphere(9.0, 32), "plate": plate}, wear, CAMERA, EVEN, size, floor=True)
    *_, probe = probing(w, 2)
    assert isinstance(probe, Probe) and probe.seconds > 0
    meter, sums = GrainMeter(), np.zeros((size[1], size[0], 3), np.float32)
    for start, stop in passes(128):
        sums += trace_block(w, Tile(0, 0, *size), start, stop)[..., :3]
        meter.read(0, sums, stop)
    found = Forecast(probe, size[0] * size[1]).after(128)
    assert found.grain == pytest.approx(meter.grain(128), rel=0.25)


def test_time_and_grain_are_told_of_each_other() -> None:
    """Of independent samples: a quarter of the squared error by four times the samples."""
    forecast = Forecast(Probe(1e-6, {n: 0.01 / n for n in (4, 8, 16, 32)}), 1_000_000, processes=2)
    assert forecast.after(64).seconds == pytest.approx(BEGINS + 32.0)
    grain = forecast.after(64).grain
    assert grain is not None
    assert forecast.at_grain(grain).samples == pytest.approx(64, abs=1)
    assert forecast.at_grain(grain / 2).samples == pytest.approx(256, rel=0.15)
    timed = forecast.within(BEGINS + 32.0)
    assert timed.samples == 64 and timed.grain == pytest.approx(grain)
    assert forecast.at_grain(1e-6).samples == 2048, "it ends there at the latest"
    assert Forecast(Probe(1e-6, {}), 100).after(16).grain is None, "nothing is lit"
