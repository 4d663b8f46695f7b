"""Light within a dense body such as milky silicone: a walk from scattering to scattering until it leaves.

The body's density differs by channel, so the free path is drawn for one channel and weighted by the mean over all
three (the balance heuristic): no channel's light is lost, none explodes. Interfaces do not bend the light of a walk,
as the colour of the body is given with its interface already accounted for (OpenPBR Surface 1.1, subsurface).
"""

from __future__ import annotations

from dataclasses import dataclass

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface.table import AppearanceTable

MOST_STEPS = 256
CALM = 24
"""Steps after which a walk may end by chance."""


@dataclass
class WalkStep:
    """One step of the walking lanes."""

    stays: mi.Bool
    """Scatters before it meets a wall."""
    ray: mi.Ray3f
    weight: mi.Color3f


def step(
    table: AppearanceTable,
    body: mi.UInt32,
    ray: mi.Ray3f,
    to_wall: mi.Float,
    walking: mi.Bool,
    u: mi.Point2f,
    v: mi.Point2f,
) -> WalkStep:
    """`to_wall` is the way to the next surface, mm; u and v are random. Lanes that do not walk keep their weight."""
    density, _ = table.block("density", body, walking)
    albedo, g = table.block("walk", body, walking)
    chosen = dr.select(u.y < 1 / 3, density.x, dr.select(u.y < 2 / 3, density.y, density.z))
    way = -dr.log(dr.maximum(1 - u.x, 1e-7)) / dr.maximum(chosen, 1e-9)
    stays = walking & (way < to_wall)
    clear = dr.exp(-density * dr.minimum(way, to_wall))
    scattered = density * clear
    weight = dr.select(stays, albedo * scattered / _mean(scattered), clear / _mean(clear))
    weight = dr.select(walking, weight, 1.0)
    onward = mi.Frame3f(ray.d).to_world(phase(g, v))
    return WalkStep(stays, mi.Ray3f(ray(dr.select(stays, way, 0.0)), onward), weight)


def _mean(color: mi.Color3f) -> mi.Float:
    return dr.maximum((color.x + color.y + color.z) / 3, 1e-20)


def phase(g: mi.Float, v: mi.Point2f) -> mi.Vector3f:
    """A direction drawn from the phase function of Henyey and Greenstein (1941), +z being straight on."""
    skew = (1 - dr.square(g)) / (1 - g + 2 * g * v.x)
    bent = (1 + dr.square(g) - dr.square(skew)) / dr.select(dr.abs(g) < 1e-3, 1.0, 2 * g)
    cos = dr.clip(dr.select(dr.abs(g) < 1e-3, 1 - 2 * v.x, bent), -1.0, 1.0)
    sine = dr.safe_sqrt(1 - dr.square(cos))
    s, c = dr.sincos(dr.two_pi * v.y)
    return mi.Vector3f(sine * c, sine * s, cos)
