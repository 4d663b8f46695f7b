"""What workers do: pure functions of their arguments and of immutable rows, so that any of them can be run again."""

from __future__ import annotations

import functools
import operator
import time
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import Finish
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.picture import Layers, develop, to_jpeg, to_png
from usual_lamp.core.trace.plan import BATCH, Tile
from usual_lamp.farm.workshop import workshop

PLATE_CORES = 0.5
"""Share of the cores that a finish plate takes."""


@dataclass(frozen=True)
class UnitResult:
    sums: NDArray[np.float32]
    seconds: float
    dropped: int
    """Samples that were no finite number."""
    engine: str
    """Version of the engine that traced this."""


def trace_unit(
    still_id: str, fingerprint: str, tile: Tile, start: int, stop: int, apart: int = 0, by_kind: bool = False
) -> UnitResult:
    """Sums of samples [start, stop) of one tile of a still; with so many groups of lights `apart`, where not 0, and
    then the light `by_kind` as well."""
    from usual_lamp.core.trace.transport.tiles import numbers_of, trace_groups, trace_pixels

    with workshop.lock:
        workshop.keep_limits()
        began = time.monotonic()
        world = workshop.world(still_id, fingerprint)
        before = world.dropped
        pixels = numbers_of(tile, world.inputs.width)

        def batch(first: int) -> NDArray[np.float32]:
            last = min(first + BATCH, stop)
            if apart:
                return trace_groups(world, pixels, first, last, apart, by_kind=by_kind)
            return trace_pixels(world, pixels, first, last)

        sums = functools.reduce(operator.add, (batch(first) for first in range(start, stop, BATCH)))
        sums = sums.reshape(tile.height, tile.width, -1)
        return UnitResult(sums, time.monotonic() - began, world.dropped - before, ENGINE_VERSION)


def preview_unit(layers: Layers, look: Finish) -> bytes:
    """A quick look at a still that is being traced, as JPEG."""
    with workshop.lock:
        return to_jpeg(develop(layers, look, "fast"))


def sight_unit(question: str) -> str:
    """Who can be seen in one arrangement: the answer to a question, both as JSON."""
    from usual_lamp.core.scene.sight import SightQuestion, answer_sight
    from usual_lamp.service import meshes

    with workshop.lock:
        asked = SightQuestion.model_validate_json(question)
        return answer_sight(asked, partial(meshes.read, workshop.store())).model_dump_json()


def plate_unit(appearance_json: str, size: int, samples: int) -> bytes:
    """A finish plate as PNG. Nobody waits for one, so it leaves cores to those who work."""
    from usual_lamp.core.appearance import Appearance
    from usual_lamp.core.trace.jobs.plates import trace_plate

    with workshop.lock:
        sample = Appearance.model_validate_json(appearance_json)
        workshop.keep_limits(PLATE_CORES)
        try:
            return to_png(trace_plate(sample, size, samples, workshop.picture))
        finally:
            workshop.keep_limits()
