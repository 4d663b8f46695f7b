"""Hits on cylinders and cones laid flat into the plane of a picture that is wrapped round them, in the kernel; the
formulas are those of `scene.wrapping`, which has their derivation."""

from __future__ import annotations

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface.table import Four


def vector(four: Four) -> mi.Vector3f:
    """Return the first three of four numbers."""
    return mi.Vector3f(four[0], four[1], four[2])


def along(four: Four, point: mi.Point3f) -> mi.Float:
    """How far a point lies along a direction, from where its fourth number says, mm."""
    return dr.dot(vector(four), mi.Vector3f(point)) + four[3]


def laid_flat(
    point: mi.Point3f, ways: list[mi.Vector3f], axes: tuple[Four, Four, Four], around: Four
) -> tuple[mi.Point3f, mi.Vector3f, list[mi.Vector3f]]:
    """A point (mm, in the part's frame) laid flat by arc length; the way that is outwards there, and directions of the
    picture's plane as they run there. `axes` are slope, side and out with minus the picture's middle along each;
    `around` has the radius (negative inside of a bore, 0 where the picture lies flat and all stay as they are), and
    sine and cosine of the taper."""
    slope, side, out = axes
    along_slope, along_side, outward = (vector(axis) for axis in axes)
    # The radius has the sign of its side: from inside of a bore one looks at the axis.
    radius, sine, cosine = dr.abs(around[0]), around[1], around[2]
    sign = dr.select(around[0] < 0, -1.0, 1.0)
    up, across, away = along(slope, point), along(side, point), along(out, point)
    toward = radius + up * sine + sign * away * cosine
    height = up * cosine - sign * away * sine
    angle, further = dr.atan2(across, toward), dr.hypot(across, toward) - radius
    gone, off = height * cosine + further * sine, sign * (further * cosine - height * sine)
    fan = angle * sine
    x = radius * angle * _sinc(fan) + gone * dr.sin(fan)
    y = gone * dr.cos(fan) - radius * angle * dr.sin(0.5 * fan) * _sinc(0.5 * fan)
    moved = along_side * (x - across) + along_slope * (y - up) + outward * (off - away)
    # The surface's own directions there: radially, round the axis, along the slope, outwards.
    axis = along_slope * cosine - outward * (sign * sine)
    first = along_slope * sine + outward * (sign * cosine)
    radial = first * dr.cos(angle) + along_side * dr.sin(angle)
    round_way = along_side * dr.cos(angle) - first * dr.sin(angle)
    up_way = axis * cosine + radial * sine
    facing = (radial * cosine - axis * sine) * sign
    grown_x = round_way * dr.cos(fan) + up_way * dr.sin(fan)
    grown_y = up_way * dr.cos(fan) - round_way * dr.sin(fan)
    wrapped = around[0] != 0
    bent = [
        dr.select(wrapped, grown_x * dr.dot(way, along_side) + grown_y * dr.dot(way, along_slope), way) for way in ways
    ]
    return (
        dr.select(wrapped, mi.Point3f(mi.Vector3f(point) + moved), point),
        dr.select(wrapped, facing, outward),
        bent,
    )


def _sinc(angle: mi.Float) -> mi.Float:
    return dr.select(dr.abs(angle) < 1e-4, 1.0, dr.sin(angle) / angle)
