"""Units of work on the tiles of a still: tracing, keeping what is traced, and packing the light of a finished one.

A tile's sums stay where they are traced: they are megabytes, and only a small picture of them is handed on. The process
holds them for the next pass and writes them to the database when it is told to, so that what it holds beyond that can
be lost with it, and is traced again.
"""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.picture.develop import shrunk
from usual_lamp.core.scene import Lighting
from usual_lamp.core.trace.group_sums import packed, relit
from usual_lamp.core.trace.plan import Tile, batch_after
from usual_lamp.core.trace.sum_bytes import from_bytes, to_bytes
from usual_lamp.core.trace.tiled import Means
from usual_lamp.farm.held_tiles import HeldTile
from usual_lamp.farm.sketches import sketch_of
from usual_lamp.farm.workshop import workshop
from usual_lamp.store import again_when_overtaken
from usual_lamp.store.tables import Still, StillLight, StillTile

Sums = NDArray[np.float32]


class TilesGone(Exception):
    """The light that a still is made of is not there any more, or somebody else goes on with it."""


@dataclass(frozen=True)
class TileOrder:
    """What is asked of a tile."""

    still_id: str
    attempt: int
    fingerprint: str
    number: int
    tile: Tile
    kept: int
    """Samples that the database has of it, or 0."""
    stop: int
    """Samples that it is to have."""
    is_to_be_kept: bool
    """Whether the database is to have them then; it is also where the process has no room to hold them."""
    apart: int
    """Groups of lights that are summed apart, or 0."""
    by_kind: bool
    """Whether the light by kind is summed as well, with groups apart only."""
    step: int
    """Pixels on a side of what is one pixel of the small picture."""
    stride: int
    """From one row or column that the grain is read from to the next."""
    engine: str
    """Version of the engine that is to trace it."""


@dataclass(frozen=True)
class TileTraced:
    """What a unit tells of its tile. Nothing of it holds where the engine is another one than was ordered."""

    engine: str
    small: Means
    """The tile's means, made smaller: (H, W, CHANNELS)."""
    reads: dict[int, Sums]
    """Sums of the colour of the pixels that the grain is read from, by samples."""
    is_kept: bool
    """Whether the database has it now."""
    seconds: float
    """Of tracing, without what was prepared for it."""
    dropped: int
    """Samples that were no finite number."""


def trace_unit(order: TileOrder) -> TileTraced:
    """Bring a tile to the samples that are asked for. Raises TilesGone."""
    if order.engine != ENGINE_VERSION:
        return TileTraced(ENGINE_VERSION, np.zeros((0, 0, 0), np.float32), {}, False, 0.0, 0)
    with workshop.lock:
        workshop.keep_limits()
        is_new = order.fingerprint not in workshop.worlds
        world = workshop.world(order.still_id, order.fingerprint)
        began = time.monotonic()
        before, lighting = world.dropped, world.inputs.lighting
        there = _kept_samples(order)
        tile = _at_hand(order, there)
        sums, samples, reads = tile.sums, tile.samples, {}
        while samples < order.stop:
            last = batch_after(samples, order.stop)
            batch = _batch(world, order, samples, last)
            sums = batch if samples == 0 else np.add(sums, batch, out=sums)
            samples = last
            if is_new:
                # Its program was compiled with the first batch: no tracing, by which the time left would be told.
                began, is_new = time.monotonic(), False
            if samples & (samples - 1) == 0:  # see GrainMeter.read
                reads[samples] = _read(order, sums, lighting)
        is_held = workshop.tiles.put(order.still_id, order.number, HeldTile(sums, samples))
        is_kept = there == order.stop
        if not is_kept and (order.is_to_be_kept or not is_held):
            _keep(order, to_bytes(sums))
            is_kept = True
        seen = relit(sums, lighting, None) if order.apart else sums
        small = shrunk(seen, order.step) / np.float32(samples)
        sketch_of(order.still_id, world.inputs.width, world.inputs.height, order.step).put(order.number, small, samples)
        return TileTraced(ENGINE_VERSION, small, reads, is_kept, time.monotonic() - began, world.dropped - before)


def light_unit(still_id: str, attempt: int, number: int, tile: Tile) -> None:
    """Pack a tile's sums as light that stays, so that the finished still can be relit. Raises TilesGone."""
    with workshop.lock:
        workshop.keep_limits()
        found = read_tile(still_id, number, tile)
        means = packed(found.sums, found.samples)
        _keep_light(still_id, attempt, number, means, found.samples)


def read_tile(still_id: str, number: int, tile: Tile) -> HeldTile:
    """A tile as the database has it, at hand or not. Raises TilesGone."""
    own = (StillTile.still_id == still_id) & (StillTile.tile == number)
    with workshop.store().begin() as session:
        samples = session.scalar(select(StillTile.samples).where(own))
        held = workshop.tiles.get(still_id, number)
        if held is not None and held.samples == samples:
            return held
        row = session.get(StillTile, (still_id, number))
    if row is None:
        raise TilesGone
    return HeldTile(from_bytes(row.sums, tile.height, tile.width), row.samples)


def _kept_samples(order: TileOrder) -> int:
    """Samples that the database has of a tile. Raises TilesGone when those are not as expected, or, where an earlier
    try of the same unit got so far, as asked for."""
    own = (StillTile.still_id == order.still_id) & (StillTile.tile == order.number)
    with workshop.store().begin() as session:
        found = session.scalar(select(StillTile.samples).where(own)) or 0
    if found not in (order.kept, order.stop):
        raise TilesGone
    return int(found)


def _at_hand(order: TileOrder, there: int) -> HeldTile:
    """What there is of a tile, at hand or in the database, to be added to; nothing of it is held meanwhile."""
    held = workshop.tiles.take(order.still_id, order.number)
    if held is not None and there <= held.samples <= order.stop:
        return held
    if there:
        return read_tile(order.still_id, order.number, order.tile)
    return HeldTile(np.zeros((0, 0, 0), np.float32), 0)


def _batch(world, order: TileOrder, first: int, last: int) -> Sums:  # type: ignore[no-untyped-def]
    """Sums of samples [first, last) of a tile."""
    from usual_lamp.core.trace.transport.tiles import numbers_of, trace_groups, trace_pixels

    pixels = numbers_of(order.tile, world.inputs.width)
    if order.apart:
        sums = trace_groups(world, pixels, first, last, order.apart, by_kind=order.by_kind)
    else:
        sums = trace_pixels(world, pixels, first, last)
    return sums.reshape(order.tile.height, order.tile.width, -1)


def _read(order: TileOrder, sums: Sums, lighting: Lighting) -> Sums:
    """Sums of the colour of the pixels that the grain is read from."""
    part = sums[:: order.stride, :: order.stride]
    return np.array((relit(part, lighting, None) if order.apart else part)[..., :3])


def _hold_still(session: Session, still_id: str, attempt: int) -> None:
    """Let nobody else change the still until the transaction ends. Raises TilesGone when it is traced no longer, or by
    another attempt."""
    own = select(Still.state, Still.attempt).where(Still.id == still_id).with_for_update()
    if session.execute(own).one_or_none() != ("running", attempt):
        raise TilesGone


@again_when_overtaken
def _keep(order: TileOrder, data: bytes) -> None:
    with workshop.store().begin() as session:
        _hold_still(session, order.still_id, order.attempt)
        row = insert(StillTile).values(still_id=order.still_id, tile=order.number, samples=order.stop, sums=data)
        # What was sent is named, not sent again: it is megabytes.
        session.execute(row.on_duplicate_key_update(samples=row.inserted.samples, sums=row.inserted.sums))


@again_when_overtaken
def _keep_light(still_id: str, attempt: int, number: int, means: bytes, samples: int) -> None:
    with workshop.store().begin() as session:
        _hold_still(session, still_id, attempt)
        row = insert(StillLight).values(still_id=still_id, tile=number, means=means, samples=samples)
        session.execute(row.on_duplicate_key_update(means=row.inserted.means, samples=row.inserted.samples))
