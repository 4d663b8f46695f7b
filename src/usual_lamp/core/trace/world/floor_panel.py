"""A panel that goes through the floor, or nearly touches it.

Light jumps there from none behind the panel to its most before it, within no distance, which no table can hold. So
what arrives from it is worked out where it is asked for, by the same closed form (`lamp_shapes.illuminance`).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.light.lamp_shapes import outline_of
from usual_lamp.core.light.lamps import BaseLamp, PanelLamp
from usual_lamp.core.trace.engine import dr, mi

Array = NDArray[np.float64]
CORNERS = 5
"""Of a rectangle of which the floor cuts off one."""
NEAR = 0.1
"""Radii of the product above the floor within which a panel is near."""


@dataclass(frozen=True)
class FloorPanel:
    """What of a panel stands above the floor, in the floor's axes, its foot at 0; mm."""

    outline: Array
    """(CORNERS, 3), to the right as seen from where it shines."""
    middle: Array
    facing: Array
    given: Array
    """(3,) cd/m²."""

    def at(self, x: mi.Float, y: mi.Float) -> mi.Color3f:
        """lx at points of the floor."""
        ways = [[dr.opaque(mi.Float, float(v)) - c for v, c in zip(p, (x, y, 0.0), strict=True)] for p in self.outline]
        total = mi.Float(0.0)
        for one, (ax, ay, az) in enumerate(ways):
            bx, by, bz = ways[(one + 1) % CORNERS]
            across = mi.Vector3f(az * by - ay * bz, ax * bz - az * bx, ay * bx - ax * by)
            length = dr.norm(across)
            angle = dr.atan2(length, ax * bx + ay * by + az * bz)
            total += dr.select(length > 0, angle * across.z / length, 0.0)
        facing, middle = ([dr.opaque(mi.Float, float(v)) for v in value] for value in (self.facing, self.middle))
        before = (x - middle[0]) * facing[0] + (y - middle[1]) * facing[1] - middle[2] * facing[2] > 0
        given = mi.Color3f(*(dr.opaque(mi.Float, float(v)) for v in self.given))
        return given * dr.select(before, dr.maximum(total, 0.0) / 2, 0.0)


def floor_panel(lamp: BaseLamp, gain: Array, foot: Array, axes: Array, radius: float) -> FloorPanel | None:
    """The panel that a lamp is if it stands in or right over the floor, at a gain (3,); None for any other lamp."""
    if not isinstance(lamp, PanelLamp) or lamp.round:
        return None
    corners, middle = ((np.array(at) - foot) @ axes.T for at in (outline_of(lamp), lamp.position))
    height = corners[:, 2]
    if height.min() > NEAR * radius or height.max() <= 0:
        return None
    return FloorPanel(_above(corners), middle, lamp.frame()[2] @ axes.T, lamp.luminance * gain)


def _above(corners: Array) -> Array:
    """(CORNERS, 3): a polygon without what lies below the floor; its last corner stands as often as it takes."""
    kept = []
    for one, other in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        if one[2] >= 0:
            kept.append(one)
        if (one[2] >= 0) != (other[2] >= 0):
            kept.append(one + (other - one) * one[2] / (one[2] - other[2]))
    return np.array(kept + [kept[-1]] * (CORNERS - len(kept)))
