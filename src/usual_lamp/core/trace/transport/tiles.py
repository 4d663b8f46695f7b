"""Traces a unit of work, pixels times a range of samples, into plain sums (see `plan`)."""

from __future__ import annotations

import functools
import operator

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import exposure_scale
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.sampler import PixelSampler, mix
from usual_lamp.core.trace.transport.integrator import trace
from usual_lamp.core.trace.transport.path import Path
from usual_lamp.core.trace.transport.sensor import camera_rays
from usual_lamp.core.trace.world.world import World

CLAMP_OVER_WHITE = 24.0
"""Light after two or more bounces is held under this many times the recorded white per sample."""
ROWS = 2048
"""Pixels whose sums are put side by side at a time."""

Sums = NDArray[np.float32]


def trace_block(world: World, tile: Tile, start: int, stop: int, seed: int = 0, clamp: bool = True) -> Sums:
    """Sums over samples [start, stop) of every pixel of a tile: (height, width, CHANNELS)."""
    sums = trace_pixels(world, numbers_of(tile, world.inputs.width), start, stop, seed, clamp)
    return sums.reshape(tile.height, tile.width, -1)


def trace_pixels(
    world: World, pixels: NDArray[np.uint32], start: int, stop: int, seed: int = 0, clamp: bool = True
) -> Sums:
    """Sums over samples [start, stop) of single pixels, by their number row by row: (n, CHANNELS)."""
    path = _trace(world, pixels, start, stop, seed, clamp)
    return _sums(world, [path.light, path.albedo, path.normal, path.backdrop], stop - start)


def trace_groups(
    world: World, pixels: NDArray[np.uint32], start: int, stop: int, groups: int, seed: int = 0, by_kind: bool = False
) -> Sums:
    """The same with the light of each group on its own, at nominal levels: (n, 9 + 6 for each group). Albedo, normal
    and backdrop, then the light of each group, then what of the floor each lights; with the light `by_kind` under the
    present levels, that too, three for each of `kinds_of_light.LAYERS` and `DIRECT`. See `group_sums`."""
    path = _trace(world, pixels, start, stop, seed, clamp=True, layers=by_kind, groups=groups)
    values = [path.albedo, path.normal, path.backdrop, *path.groups.light, *path.groups.floor]
    return _sums(world, values + path.book.layers + path.book.direct, stop - start)


def numbers_of(tile: Tile, width: int) -> NDArray[np.uint32]:
    """Numbers of a tile's pixels in a picture of that width, row by row."""
    rows, columns = np.arange(tile.y, tile.y + tile.height), np.arange(tile.x, tile.x + tile.width)
    return (rows[:, None] * width + columns).ravel().astype(np.uint32)


def trace_layers(world: World, tile: Tile, start: int, stop: int, seed: int = 0, clamp: bool = True) -> dict[str, Sums]:
    """The same samples, with the light by kind and by source, see `book`: name to sums (height, width, 3).

    `beauty`, `albedo`, `normal` and `backdrop_seen` are those of `trace_block`.
    """
    path = _trace(world, numbers_of(tile, world.inputs.width), start, stop, seed, clamp, layers=True)
    found = {"beauty": path.light, "albedo": path.albedo, "normal": path.normal, "backdrop_seen": path.backdrop}
    found |= path.book.everything()
    sums = _sums(world, list(found.values()), stop - start).reshape(tile.height, tile.width, -1)
    return {name: sums[..., 3 * k : 3 * k + 3] for k, name in enumerate(found)}


def _trace(
    world: World,
    pixels: NDArray[np.uint32],
    start: int,
    stop: int,
    seed: int,
    clamp: bool,
    layers: bool = False,
    groups: int = 0,
) -> Path:
    count = stop - start
    width, height = world.inputs.width, world.inputs.height
    if world.pictures is not None:
        world.pictures.seen_by(world.inputs.camera, width, height)
    lane = dr.arange(mi.UInt32, len(pixels) * count)
    spp = dr.opaque(mi.UInt32, count)
    pixel = lane // spp
    number = lane - pixel * spp
    place = dr.gather(mi.UInt32, mi.UInt32(pixels), pixel)
    y = place // dr.opaque(mi.UInt32, width)
    x = place - y * dr.opaque(mi.UInt32, width)
    sampler = PixelSampler(
        mix(place ^ dr.opaque(mi.UInt32, seed * 0x9E3779B9 & 0xFFFFFFFF)),
        number + dr.opaque(mi.UInt32, start),
    )
    jitter, lens = sampler.next_2d(), sampler.next_2d()
    s = (mi.Float(x) + jitter.x) / dr.opaque(mi.Float, width)
    t = (mi.Float(y) + jitter.y) / dr.opaque(mi.Float, height)
    ray = camera_rays(world.inputs, s, t, lens)
    backdrop = world.behind.at(ray, s, t)
    limit = CLAMP_OVER_WHITE / exposure_scale(REFERENCE_EV) if clamp else float("inf")
    return trace(world, ray, sampler, backdrop, dr.opaque(mi.Float, limit), layers, groups)


def _sums(world: World, values: list[mi.Color3f | mi.Vector3f], count: int) -> Sums:
    """Sums per pixel, (n, 3 for each value). What is not finite counts as nothing, and in `world.dropped`."""
    channels = [channel for value in values for channel in (value.x, value.y, value.z)]
    finite = [dr.isfinite(c) for c in channels]
    channels = [dr.select(sound, c, 0.0) for sound, c in zip(finite, channels, strict=True)]
    channels.append(dr.select(functools.reduce(operator.and_, finite), mi.Float(0.0), mi.Float(1.0)))
    # One kernel for the whole loop; without this each reduction would run it again.
    dr.eval(channels)
    if count > 1:
        channels = [dr.block_reduce(dr.ReduceOp.Add, c, count) for c in channels]
        dr.eval(channels)
    world.dropped += int(channels.pop().numpy().sum(dtype=np.float64))
    planes = [c.numpy() for c in channels]
    found = np.empty((len(planes[0]), len(planes)), np.float32)
    # A few rows at a time, which stay in the processor's cache: all at once takes several times as long.
    for start in range(0, len(found), ROWS):
        part = slice(start, start + ROWS)
        np.stack([plane[part] for plane in planes], axis=1, out=found[part])
    return found
