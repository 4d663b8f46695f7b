"""Carries a lighting from one product to another: what is sized to a product and turned to a view follows both."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.light.arranging import Stand
from usual_lamp.core.light.lamps import DistantLamp, Lamp, PhotometricLamp, Standing
from usual_lamp.core.scene.document import Lighting
from usual_lamp.core.scene.frozen import Frozen, Triple

LENGTHS = ("width", "height", "length", "diameter", "spacing")
POWERS = ("candela", "lumen")
"""Of lamps, that grow with the square of the distance; luminances stay."""


class CarriedLighting(Frozen):
    """A lighting, and how the product stood for which it was made: middle, half diagonal, floor and eye, mm."""

    lighting: Lighting
    center: Triple
    radius: float
    floor: float
    eye: Triple
    panoramas: dict[str, str] = {}
    """Names of the imported ones that it uses, by content hash."""
    appearances: dict[str, Appearance] = {}
    """What its floor wears, where that is the review's own."""

    @staticmethod
    def of(
        lighting: Lighting, stand: Stand, panoramas: dict[str, str], appearances: dict[str, Appearance]
    ) -> CarriedLighting:
        """Take a lighting along, with what it uses of its review."""
        floor = lighting.floor_finish.appearance
        worn = {id: one for id, one in appearances.items() if id == floor}
        used = {name: label for name, label in panoramas.items() if lighting.surroundings == f"map:{name}"}
        x, y, z = stand.center.tolist()
        a, b, c = stand.eye.tolist()
        return CarriedLighting(
            lighting=lighting,
            center=(x, y, z),
            radius=stand.radius,
            floor=stand.floor,
            eye=(a, b, c),
            panoramas=used,
            appearances=worn,
        )

    def fitted(self, stand: Stand) -> CarriedLighting:
        """The same on another product, see `to`."""
        return CarriedLighting.of(self.to(stand), stand, self.panoramas, self.appearances)

    def to(self, stand: Stand) -> Lighting:
        """The lighting as it falls on another product, seen from another side."""
        was = Stand(np.array(self.center), self.radius, self.floor, np.array(self.eye))
        grown = stand.radius / max(was.radius, 1e-9)
        turn = stand.azimuth(0.0) - was.azimuth(0.0)
        lamps = {id: _carried(lamp, was, stand, grown, turn) for id, lamp in self.lighting.lamps.items()}
        finish = self.lighting.floor_finish
        change = {
            "lamps": lamps,
            "turn": _within_half_a_turn(self.lighting.turn + turn),
            "floor_finish": finish.model_copy(
                update={"lift": finish.lift * grown, "turn": _within_half_a_turn(finish.turn + turn), "tilts": None}
            ),
        }
        return Lighting.model_validate(self.lighting.model_copy(update=change).model_dump())


def _carried(lamp: Lamp, was: Stand, now: Stand, grown: float, turn: float) -> Lamp:
    if isinstance(lamp, DistantLamp):
        # One that was put by date and place stands where it stands, whoever looks.
        return lamp if lamp.sun else lamp.model_copy(update={"azimuth": _within_half_a_turn(lamp.azimuth + turn)})
    assert isinstance(lamp, Standing)
    angle = math.radians(turn)
    # Azimuths grow from the front (-y) towards the right (+x): against the clock, seen from above.
    turned = np.array([[math.cos(angle), -math.sin(angle), 0], [math.sin(angle), math.cos(angle), 0], [0, 0, 1]])
    change: dict[str, Any] = {}
    for name in ("position", "target"):
        place = now.center + turned @ (np.subtract(getattr(lamp, name), was.center) * grown)
        change[name] = tuple(round(float(np.clip(v, -1e6, 1e6)), 1) for v in place)
    change |= {name: float(np.clip(getattr(lamp, name) * grown, 1.0, 1e5)) for name in LENGTHS if hasattr(lamp, name)}
    if isinstance(lamp, PhotometricLamp):
        change["level"] = float(np.clip(lamp.level + 2 * math.log2(grown), -12.0, 12.0))
    else:
        powers = [name for name in POWERS if hasattr(lamp, name)]
        change |= {name: float(min(getattr(lamp, name) * grown**2, 1e9)) for name in powers}
    return lamp.model_copy(update=change)


def _within_half_a_turn(degrees: float) -> float:
    return round((degrees + 180.0) % 360.0 - 180.0, 2)
