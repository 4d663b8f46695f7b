"""What is wrong with a picture that traces well: the camera or a lamp sits inside a part."""

from __future__ import annotations

from collections.abc import Sequence

from usual_lamp.core.trace import sampler
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.world.world import World

LOOKS = 256
MOSTLY = 0.9
"""A place is inside when at least this share of all directions from it meets parts from behind."""


def around_camera(world: World) -> int | None:
    """The part that the camera is inside of, as its place in the trace inputs; None when it is in the open."""
    return None if world.inputs.camera.parallel else around(world, world.inputs.camera.position)


def around(world: World, place: Sequence[float]) -> int | None:
    """The part that a place (mm) is inside of, as its place in the trace inputs; None when it is in the open."""
    lane = dr.arange(mi.UInt32, LOOKS)
    point = sampler.point(dr.zeros(mi.UInt32, LOOKS), lane, dr.zeros(mi.UInt32, LOOKS))
    origin = mi.Point3f(*(dr.opaque(mi.Float, float(value)) for value in place))
    ray = mi.Ray3f(origin, mi.warp.square_to_uniform_sphere(point))
    si = world.hit(ray, False, mi.Bool(True))
    hit = si.is_valid()
    on_part = hit & world.is_part(world.appearance_of(si, hit))
    behind = on_part & (dr.dot(si.n, ray.d) > 0)
    if dr.count(behind)[0] < MOSTLY * LOOKS:
        return None
    parts = dr.select(behind, mi.Int32(world.placements.part(si.shape, behind)), -1)
    found = [int(part) for part in parts if part >= 0]
    return max(set(found), key=found.count)
