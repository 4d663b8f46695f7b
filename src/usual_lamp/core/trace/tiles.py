"""Traces one unit of work, a tile times a range of samples, into plain sums (see `plan`)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import exposure_scale
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.integrator import Path, trace
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.sampler import PixelSampler, mix
from usual_lamp.core.trace.sensor import camera_rays
from usual_lamp.core.trace.world import World

CLAMP_OVER_WHITE = 24.0
"""Light after two or more bounces is held under this many times the recorded white per sample."""

Sums = NDArray[np.float32]


def trace_block(
    world: World,
    tile: Tile,
    start: int,
    stop: int,
    seed: int = 0,
    clamp: bool = True,
    size: tuple[int, int] | None = None,
) -> Sums:
    """Sums over samples [start, stop) of every pixel of a tile: (height, width, CHANNELS).

    `size` is that of the whole picture in pixels, where it is not the one that the inputs ask for.
    """
    path = _trace(world, tile, start, stop, seed, clamp, size, layers=False)
    return np.concatenate(_sums([path.light, path.albedo, path.normal], tile, stop - start), axis=2)


def trace_layers(world: World, tile: Tile, start: int, stop: int, seed: int = 0, clamp: bool = True) -> dict[str, Sums]:
    """The same samples, with the light by kind and by source, see `book`: name to sums (height, width, 3).

    `beauty`, `albedo` and `normal` are those of `trace_block`.
    """
    path = _trace(world, tile, start, stop, seed, clamp, None, layers=True)
    found = {"beauty": path.light, "albedo": path.albedo, "normal": path.normal, **path.book.everything()}
    return dict(zip(found, _sums(list(found.values()), tile, stop - start), strict=True))


def _trace(
    world: World,
    tile: Tile,
    start: int,
    stop: int,
    seed: int,
    clamp: bool,
    size: tuple[int, int] | None,
    layers: bool,
) -> Path:
    count = stop - start
    width, height = size or (world.inputs.width, world.inputs.height)
    lane = dr.arange(mi.UInt32, tile.width * tile.height * count)
    spp = dr.opaque(mi.UInt32, count)
    pixel, number = lane // spp, lane % spp
    row = pixel // dr.opaque(mi.UInt32, tile.width)
    x = pixel - row * dr.opaque(mi.UInt32, tile.width) + dr.opaque(mi.UInt32, tile.x)
    y = row + dr.opaque(mi.UInt32, tile.y)
    place = y * dr.opaque(mi.UInt32, width) + x
    sampler = PixelSampler(
        mix(place ^ dr.opaque(mi.UInt32, seed * 0x9E3779B9 & 0xFFFFFFFF)),
        number + dr.opaque(mi.UInt32, start),
    )
    jitter, lens = sampler.next_2d(), sampler.next_2d()
    s = (mi.Float(x) + jitter.x) / dr.opaque(mi.Float, width)
    t = (mi.Float(y) + jitter.y) / dr.opaque(mi.Float, height)
    ray = camera_rays(world.inputs, s, t, lens)
    top = mi.Color3f(*(dr.opaque(mi.Float, float(v)) for v in world.top))
    bottom = mi.Color3f(*(dr.opaque(mi.Float, float(v)) for v in world.bottom))
    backdrop = dr.lerp(top, bottom, dr.square(t) * (3 - 2 * t))
    limit = CLAMP_OVER_WHITE / exposure_scale(REFERENCE_EV) if clamp else float("inf")
    return trace(world, ray, sampler, backdrop, dr.opaque(mi.Float, limit), layers)


def _sums(values: list[mi.Color3f | mi.Vector3f], tile: Tile, count: int) -> list[Sums]:
    """Sums per pixel, (height, width, 3) each; what is not finite counts as nothing."""
    # One kernel for the whole loop; without this each reduction would run it again.
    dr.eval(values)
    channels = [channel for value in values for channel in (value.x, value.y, value.z)]
    sums = [dr.block_reduce(dr.ReduceOp.Add, dr.select(dr.isfinite(c), c, 0.0), count) for c in channels]
    dr.eval(sums)
    flat = np.stack([np.array(s) for s in sums], axis=1).reshape(tile.height, tile.width, len(channels))
    return [flat[..., k : k + 3] for k in range(0, len(channels), 3)]
