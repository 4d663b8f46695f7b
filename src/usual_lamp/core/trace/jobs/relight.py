"""How the floor's light changes with the levels of the lights: what relit sums need beside themselves."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.scene.document import Lighting
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.sensor import camera_rays
from usual_lamp.core.trace.transport.tiles import numbers_of
from usual_lamp.core.trace.world.floor_light import FloorLight
from usual_lamp.core.trace.world.world import World

SAME_UNLIT = 0.004
"""Difference of what no light gives to the floor that cannot be seen: one step of 255."""


def can_relight(world: World, lighting: Lighting) -> bool:
    """Whether sums of this world hold under another lighting, whose levels alone differ: what of the floor no light
    gives must be the same."""
    table = FloorLight()
    world.light_floor(table, lighting)
    return bool(np.abs(table.unlit - world.floor_light.unlit).max() <= SAME_UNLIT)


def floor_under(world: World, lighting: Lighting) -> FloorLight | None:
    """How the floor is lit under another lighting; None where there is none, or nothing changes."""
    if not world.has_floor or lighting == world.inputs.lighting:
        return None
    now = FloorLight()
    world.light_floor(now, lighting)
    return now


def floor_ratio(world: World, now: FloorLight, area: Tile) -> NDArray[np.float32]:
    """(H, W, 3): how the floor was lit when it was traced, over how it is lit now, at each pixel of the area; where
    nothing shades it, it is the backdrop under any light."""
    width, height = world.inputs.width, world.inputs.height
    pixel = mi.UInt32(numbers_of(area, width))
    y = pixel // dr.opaque(mi.UInt32, width)
    x = pixel - y * dr.opaque(mi.UInt32, width)
    s, t = ((mi.Float(n) + 0.5) / dr.opaque(mi.Float, size) for n, size in ((x, width), (y, height)))
    ray = camera_rays(world.inputs, s, t, mi.Point2f(0.5, 0.5))
    up = mi.Vector3f(*(dr.opaque(mi.Float, v) for v in world.inputs.floor_up))
    toward, height = dr.dot(ray.d, up), dr.dot(mi.Vector3f(ray.o), up)
    down = toward < -1e-6
    far = (dr.opaque(mi.Float, world.inputs.floor_height) - height) / dr.select(down, toward, -1.0)
    point = ray(far)
    ratio = world.floor_light.at(point, down)[0] / dr.maximum(now.at(point, down)[0], 1e-9)
    ratio = dr.select(down, ratio, 1.0)
    return np.asarray(np.array(ratio).T.reshape(area.height, area.width, 3), np.float32)
