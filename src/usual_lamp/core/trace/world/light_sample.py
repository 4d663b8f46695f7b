"""A direction towards light, as every kind of light gives it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from usual_lamp.core.trace.engine import mi

LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
"""Of linear Rec. 709."""


@dataclass
class LightSample:
    """Directions towards light: unit vector, distance, radiance (cd/m², at nominal levels), density per steradian."""

    direction: mi.Vector3f
    distance: mi.Float
    radiance: mi.Color3f
    density: mi.Float
    group: mi.UInt32
    """See `light_groups`."""
    mirrored: mi.Bool
    """Whether shiny surfaces show it."""

    def as_tuple(self) -> tuple[mi.Vector3f, mi.Float, mi.Color3f, mi.Float, mi.UInt32, mi.Bool]:
        """Its fields in order: the state of a branch."""
        return self.direction, self.distance, self.radiance, self.density, self.group, self.mirrored
