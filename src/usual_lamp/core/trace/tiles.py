"""Traces one unit of work, a tile times a range of samples, into plain sums (see `plan`)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import exposure_scale
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.integrator import trace
from usual_lamp.core.trace.plan import CHANNELS, Tile
from usual_lamp.core.trace.sampler import PixelSampler, mix
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
    jitter = sampler.next_2d()
    s = (mi.Float(x) + jitter.x) / dr.opaque(mi.Float, width)
    t = (mi.Float(y) + jitter.y) / dr.opaque(mi.Float, height)
    ray = camera_rays(world, s, t)
    top = mi.Color3f(*(dr.opaque(mi.Float, float(v)) for v in world.top))
    bottom = mi.Color3f(*(dr.opaque(mi.Float, float(v)) for v in world.bottom))
    limit = CLAMP_OVER_WHITE / exposure_scale(REFERENCE_EV) if clamp else float("inf")
    path = trace(world, ray, sampler, dr.lerp(top, bottom, dr.square(t) * (3 - 2 * t)), dr.opaque(mi.Float, limit))
    # One kernel for the whole loop; without this each reduction would run it again.
    dr.eval(path.light, path.albedo, path.normal)
    sums = [
        dr.block_reduce(dr.ReduceOp.Add, dr.select(dr.isfinite(channel), channel, 0.0), count)
        for vector in (path.light, path.albedo, path.normal)
        for channel in (vector.x, vector.y, vector.z)
    ]
    dr.eval(sums)
    return np.stack([np.array(s) for s in sums], axis=1).reshape(tile.height, tile.width, CHANNELS)


def camera_rays(world: World, s: mi.Float, t: mi.Float) -> mi.Ray3f:
    """Rays through picture positions s (left to right) and t (top to bottom) in [0, 1]."""
    camera = world.inputs.camera
    across, along = camera.half_tangents(world.inputs.width / world.inputs.height)
    right, up, forward = (mi.Vector3f(*(dr.opaque(mi.Float, float(v)) for v in row)) for row in camera.basis())
    place = right * ((2 * s - 1) * dr.opaque(mi.Float, across)) + up * ((1 - 2 * t) * dr.opaque(mi.Float, along))
    origin = mi.Point3f(*(dr.opaque(mi.Float, float(v)) for v in camera.position))
    # One kernel for both: parallel rays start spread out, and far enough back to meet everything.
    distance = float(np.linalg.norm(np.subtract(camera.target, camera.position)))
    parallel = dr.opaque(mi.Float, float(camera.parallel))
    back = dr.opaque(mi.Float, 4 * world.inputs.radius)
    origin += parallel * (place * dr.opaque(mi.Float, distance) - forward * back)
    return mi.Ray3f(origin, dr.normalize(forward + place * (1 - parallel)))
