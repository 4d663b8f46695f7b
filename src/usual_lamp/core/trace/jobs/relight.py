"""From sums by group of lights to the picture under their present levels: nothing is traced for it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.scene.document import Lighting
from usual_lamp.core.scene.light_groups import light_groups
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.plan import CHANNELS, Tile
from usual_lamp.core.trace.transport.sensor import camera_rays
from usual_lamp.core.trace.transport.tiles import numbers_of
from usual_lamp.core.trace.world.floor_light import FloorLight
from usual_lamp.core.trace.world.light_sample import LUMINANCE
from usual_lamp.core.trace.world.world import World

Sums = NDArray[np.float32]
GUIDES = 9
"""Channels before those of the groups: albedo, normal and the backdrop itself."""


def channels(groups: int) -> int:
    """Channels of sums that keep so many groups, see `tiles.trace_groups`."""
    return GUIDES + 6 * groups


def relit(sums: Sums, lighting: Lighting, floor: NDArray[np.float32] | None) -> Sums:
    """The sums of a picture as `tiles.trace_block` gives them, (H, W, CHANNELS), under the lighting's levels; `floor`
    is from `floor_ratio`."""
    groups = (sums.shape[2] - GUIDES) // 6
    gains = light_groups(lighting).gains[:groups].astype(np.float32)
    result = np.empty((*sums.shape[:2], CHANNELS), np.float32)
    result[..., 3:9] = sums[..., 0:6]
    kept = sums[..., GUIDES:].reshape(*sums.shape[:2], 2, groups, 3)
    lit = np.einsum("hwgc,gc->hwc", kept[:, :, 1], gains, optimize=True)
    if floor is not None:
        lit *= floor
    result[..., 9:12] = sums[..., 6:9] + lit
    result[..., 0:3] = result[..., 9:12] + np.einsum("hwgc,gc->hwc", kept[:, :, 0], gains, optimize=True)
    return result


def floor_ratio(world: World, lighting: Lighting, area: Tile) -> NDArray[np.float32] | None:
    """(H, W, 3): how the floor was lit when it was traced, over how it is lit now, at each pixel of the area; where
    nothing shades it, it is the backdrop under any light. None where that is 1."""
    if not world.has_floor or lighting == world.inputs.lighting:
        return None
    now = FloorLight()
    world.light_floor(now, lighting)
    width, height = world.inputs.width, world.inputs.height
    pixel = mi.UInt32(numbers_of(area, width))
    y = pixel // dr.opaque(mi.UInt32, width)
    x = pixel - y * dr.opaque(mi.UInt32, width)
    s, t = ((mi.Float(n) + 0.5) / dr.opaque(mi.Float, size) for n, size in ((x, width), (y, height)))
    ray = camera_rays(world.inputs, s, t, mi.Point2f(0.5, 0.5))
    down = ray.d.z < -1e-6
    far = (dr.opaque(mi.Float, world.inputs.floor_height) - ray.o.z) / dr.select(down, ray.d.z, -1.0)
    point = ray(far)
    ratio = world.floor_light.at(point, down)[0] / dr.maximum(now.at(point, down)[0], 1e-9)
    ratio = dr.select(down, ratio, 1.0)
    return np.asarray(np.array(ratio).T.reshape(area.height, area.width, 3), np.float32)


def shares(sums: Sums, lighting: Lighting) -> dict[str, float]:
    """Share of each light in the picture's light, the backdrop apart: "environment", "glow", and lamps by id; lamps
    that share a group have one share together."""
    groups = (sums.shape[2] - GUIDES) // 6
    found = light_groups(lighting)
    total = sums[..., GUIDES : GUIDES + 3 * groups].reshape(-1, groups, 3).sum(axis=0, dtype=np.float64)
    power = (total * found.gains[:groups]) @ LUMINANCE
    part = power / max(float(power.sum()), 1e-30)
    named = {"environment": 0, "glow": 1} | found.of_lamp
    return {name: float(part[min(group, groups - 1)]) for name, group in named.items()}
