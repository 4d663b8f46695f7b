"""Surroundings with the lamps drawn in: what the shaded picture takes for light, as seen from the product's middle."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.light.lamp_shapes import illuminance
from usual_lamp.core.light.lamps import REFLECTANCE, Card, DistantLamp, Lamp, PanelLamp, TubeLamp
from usual_lamp.core.light.surroundings import directions, irradiance

Array = NDArray[np.float64]
LEAST = np.radians(5.0)
"""Radius of a light in the map: the shaded picture samples it coarsely, and would miss a smaller one."""


def with_cards(map: Array, cards: Sequence[Card], center: Array) -> Array:
    """A map (H, 2H, 3) in cd/m² with cards before it, as bright as the map lights their nearer side."""
    result, toward = np.array(map, np.float64), directions(map.shape[0])
    for card in cards:
        mask = _mask(card, toward, center, map.shape[0])
        sent = irradiance(map, tuple(card.frame()[2])) / np.pi * REFLECTANCE[card.surface]
        result += mask[..., None] * (sent - result)
    return result


def with_lamps(map: Array, lamps: Sequence[tuple[Lamp, Array]], center: Array) -> Array:
    """A map (H, 2H, 3) in cd/m² with lamps added, each by its gain (3,); the light of each in the middle is kept."""
    height = map.shape[0]
    toward = directions(height)
    sine = np.sin((np.arange(height) + 0.5) * np.pi / height)[:, None]
    solid = np.broadcast_to(sine * (np.pi / height) ** 2, map.shape[:2])
    result = np.array(map, np.float64)
    for lamp, gain in lamps:
        lux = float(illuminance(lamp, center[None])[0])
        if lux <= 0 or not gain.any():
            continue
        mask = _mask(lamp, toward, center, height)
        covered = float((mask * solid).sum())
        if covered > 0:
            result += mask[..., None] * (lux / covered) * gain
    return result


def _mask(lamp: Lamp, toward: Array, center: Array, height: int) -> Array:
    """(H, 2H): 1 where the lamp is seen."""
    if isinstance(lamp, DistantLamp):
        return _disc(toward, lamp.direction(), np.radians(lamp.angle / 2), height)
    way = np.subtract(lamp.position, center)
    distance = float(np.linalg.norm(way))
    if distance < 1e-6:
        return np.zeros(toward.shape[:2])
    if isinstance(lamp, PanelLamp | TubeLamp | Card):
        side, up, forward = lamp.frame()
        width, tall = (lamp.length, lamp.diameter) if isinstance(lamp, TubeLamp) else (lamp.width, lamp.height)
        along = -(toward @ (way / distance)) if isinstance(lamp, TubeLamp) else toward @ forward
        reach = np.where(along < -1e-3, (way @ forward) / np.minimum(along, -1e-3), np.inf)
        if isinstance(lamp, TubeLamp):
            reach = np.where(along < -1e-3, distance / -np.minimum(along, -1e-3), np.inf)
        point = toward * np.where(np.isfinite(reach), reach, 0.0)[..., None] - way
        x, y = 2 * (point @ side) / width, 2 * (point @ up) / tall
        inside = x**2 + y**2 <= 1 if getattr(lamp, "round", False) else (np.abs(x) <= 1) & (np.abs(y) <= 1)
        mask = np.asarray(inside & np.isfinite(reach) & (reach > 0), float)
        if mask.any():
            return mask
    return _disc(toward, way / distance, np.arctan2(getattr(lamp, "diameter", 0.0) / 2, distance), height)


def _disc(toward: Array, direction: Array, radius: float, height: int) -> Array:
    """A round light, no smaller than the map can hold and a browser finds in it."""
    least = max(LEAST, 1.6 * np.pi / height)
    return np.asarray(toward @ direction >= np.cos(max(float(radius), least)), float)
