"""What workers do: pure functions of their arguments and of immutable rows, so that any of them can be run again.

A worker keeps the last few scenes it built; units of the same still then cost only their tracing.
"""

from __future__ import annotations

import functools
import operator
import threading
import time
from collections import OrderedDict
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import Finish
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.picture import Layers, denoise, develop, to_jpeg, to_png
from usual_lamp.core.picture.develop import Effort
from usual_lamp.core.picture.finished import Finished, files_of
from usual_lamp.core.picture.negative import from_negative, to_negative
from usual_lamp.core.picture.read import read_picture
from usual_lamp.core.picture.survey_file import bare_in, to_survey_file
from usual_lamp.core.scene import Lighting
from usual_lamp.core.trace.plan import BATCH, CHANNELS, Tile, tiles

KEPT_WORLDS = 2
SURVEY_SAMPLES = 4
"""Of each pixel, for coverage and occlusion; the rest is of its middle."""
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


class _Workshop:
    """Per-process state of a worker: one tracer, one lock, a few built scenes."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.worlds: OrderedDict[str, object] = OrderedDict()
        self._store: object = None
        self._limits: object = None

    def store(self):  # type: ignore[no-untyped-def]
        from usual_lamp.store import Store

        if self._store is None:
            self._store = Store.from_environment()
        return self._store

    def keep_limits(self, share: float = 1.0) -> None:
        """Before a unit: cores (or a share of them) and memory as the settings say now."""
        from usual_lamp.farm.limits import Limits

        if self._limits is None:
            self._limits = Limits(self.store())
        self._limits.apply(share)  # type: ignore[attr-defined]
        if self._limits.memory_is_short():  # type: ignore[attr-defined]
            self.worlds.clear()

    def inputs(self, still_id: str):  # type: ignore[no-untyped-def]
        from usual_lamp.core.scene.resolution import TraceInputs
        from usual_lamp.store.tables import Still

        with self.store().begin() as session:
            still = session.get(Still, still_id)
            if still is None:
                raise LookupError(f"still {still_id} is gone")
            return TraceInputs.model_validate_json(still.inputs)

    def world(self, still_id: str, fingerprint: str):  # type: ignore[no-untyped-def]
        from usual_lamp.core.trace.world.world import World
        from usual_lamp.service import meshes

        if fingerprint in self.worlds:
            self.worlds.move_to_end(fingerprint)
            return self.worlds[fingerprint]
        while len(self.worlds) >= KEPT_WORLDS:
            self.worlds.popitem(last=False)
        store = self.store()
        world = World(
            self.inputs(still_id),
            partial(meshes.read, store),
            picture_of=self.picture,
            mapped_of=partial(meshes.read_mapped, store),
        )
        self.worlds[fingerprint] = world
        return world

    def survey(self, still_id: str) -> bytes | None:
        from usual_lamp.store import blobs
        from usual_lamp.store.tables import Still

        with self.store().begin() as session:
            still = session.get(Still, still_id)
            key = still.survey if still else None
        return blobs.read(self.store(), key) if key else None

    def picture(self, key: str, color: bool) -> NDArray[np.float32]:
        from usual_lamp.store import blobs

        return read_picture(blobs.read(self.store(), key), color)


_workshop = _Workshop()


def trace_unit(
    still_id: str, fingerprint: str, tile: Tile, start: int, stop: int, apart: int = 0, by_kind: bool = False
) -> UnitResult:
    """Sums of samples [start, stop) of one tile of a still; with so many groups of lights `apart`, where not 0, and
    then the light `by_kind` as well."""
    from usual_lamp.core.trace.transport.tiles import numbers_of, trace_groups, trace_pixels

    with _workshop.lock:
        _workshop.keep_limits()
        began = time.monotonic()
        world = _workshop.world(still_id, fingerprint)
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
    with _workshop.lock:
        return to_jpeg(develop(layers, look, "fast"))


def finish_unit(
    layers: Layers,
    look: Finish,
    words: dict[str, str],
    ground: tuple[float, float, float] | None = None,
    survey: bytes | None = None,
    effort: Effort = "best",
) -> Finished:
    """A finished still, its PNG with `words` in it; see `denoise` for the effort.

    With `ground`, the linear colour of a backdrop that is to be left out, the PNG is transparent; a `survey` tells what
    is bare then.
    """
    with _workshop.lock:
        return _finished(layers, look, words, ground, survey, effort)


def survey_unit(still_id: str, fingerprint: str) -> bytes:
    """What lies behind each pixel of a still, see `core.picture.survey_file`."""
    from usual_lamp.core.trace.jobs.still import survey_still

    with _workshop.lock:
        _workshop.keep_limits()
        return to_survey_file(survey_still(_workshop.world(still_id, fingerprint), SURVEY_SAMPLES))


def _finished(
    layers: Layers,
    look: Finish,
    words: dict[str, str],
    ground: tuple[float, float, float] | None,
    survey: bytes | None,
    effort: Effort,
) -> Finished:
    clean = denoise(layers, effort)
    if ground is not None and survey is not None:
        clean = replace(clean, bare=bare_in(survey))
    return files_of(clean, look, words, ground, to_negative(clean))


def redevelop_unit(
    negative: str, look: Finish, words: dict[str, str], ground: tuple[float, float, float] | None
) -> Finished:
    """A still that differs from a finished one in its finish alone, from the negative of that one, by its hash."""
    from usual_lamp.store import blobs

    with _workshop.lock:
        data = blobs.read(_workshop.store(), negative)
        return files_of(from_negative(data), look, words, ground, data)


def relight_unit(
    still_id: str, source_id: str, look: Finish, words: dict[str, str], effort: Effort = "best"
) -> Finished | None:
    """A still made from the kept light of another one that differs from it in the levels of lights alone; None where
    that light is gone, or does not hold under the new levels."""
    with _workshop.lock:
        layers, lighting = _relit(still_id, source_id)
        if layers is None:
            return None
        survey = _workshop.survey(source_id) if lighting.ground is not None else None
        return _finished(layers, look, words, lighting.ground, survey, effort)


def relit_preview_unit(still_id: str, source_id: str, look: Finish) -> bytes | None:
    """A quick look at the same, as JPEG."""
    with _workshop.lock:
        layers, _ = _relit(still_id, source_id)
        return to_jpeg(develop(layers.halved(), look, "fast")) if layers else None


def _relit(still_id: str, source_id: str) -> tuple[Layers | None, Lighting]:
    from sqlalchemy import select

    from usual_lamp.core.trace.group_sums import relit, unpacked
    from usual_lamp.core.trace.jobs.relight import can_relight, floor_ratio
    from usual_lamp.store.tables import StillLight

    _workshop.keep_limits()
    lighting, source = _workshop.inputs(still_id).lighting, _workshop.inputs(source_id)
    cut = tiles(source.width, source.height)
    floor = None
    if source.lighting.floor and lighting != source.lighting:
        world = _workshop.world(source_id, source.fingerprint())
        if not can_relight(world, lighting):
            return None, lighting
        floor = floor_ratio(world, lighting, Tile(0, 0, source.width, source.height))
    means = np.zeros((source.height, source.width, CHANNELS), np.float32)
    for index, t in enumerate(cut):
        with _workshop.store().begin() as session:
            row = session.scalar(
                select(StillLight.means).where(StillLight.still_id == source_id, StillLight.tile == index)
            )
        if row is None:
            return None, lighting
        place = (slice(t.y, t.y + t.height), slice(t.x, t.x + t.width))
        shade = None if floor is None else floor[place]
        means[place] = relit(unpacked(row, t.height, t.width), lighting, shade)
    return Layers.from_sums(means, 1), lighting


def sight_unit(question: str) -> str:
    """Who can be seen in one arrangement: the answer to a question, both as JSON."""
    from usual_lamp.core.scene.sight import SightQuestion, answer_sight
    from usual_lamp.service import meshes

    with _workshop.lock:
        asked = SightQuestion.model_validate_json(question)
        return answer_sight(asked, partial(meshes.read, _workshop.store())).model_dump_json()


def plate_unit(appearance_json: str, size: int, samples: int) -> bytes:
    """A finish plate as PNG. Nobody waits for one, so it leaves cores to those who work."""
    from usual_lamp.core.appearance import Appearance
    from usual_lamp.core.trace.jobs.plates import trace_plate

    with _workshop.lock:
        sample = Appearance.model_validate_json(appearance_json)
        _workshop.keep_limits(PLATE_CORES)
        try:
            return to_png(trace_plate(sample, size, samples, _workshop.picture))
        finally:
            _workshop.keep_limits()
