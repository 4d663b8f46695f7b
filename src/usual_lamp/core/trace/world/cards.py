"""Cards in the traced scene: flat surfaces of four kinds that stand beside the product."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from usual_lamp.core.appearance import NEUTRAL, Appearance, OpenPBR
from usual_lamp.core.light.lamp_shapes import corners_of
from usual_lamp.core.light.lamps import REFLECTANCE, Card
from usual_lamp.core.trace.world.geometry import Piece


def _worn(surface: str) -> Appearance:
    color = (REFLECTANCE[surface],) * 3
    if surface == "mirror":
        params = OpenPBR(base_color=color, base_metalness=1.0, specular_roughness=0.03)
    else:
        params = OpenPBR(base_color=color, specular_weight=0.0, specular_roughness=1.0)
    return NEUTRAL.model_copy(update={"id": f"card-{surface}", "name": surface, "params": params})


CARDS = {(seen, surface): _worn(surface) for seen in (False, True) for surface in REFLECTANCE}
"""What cards wear, by whether the camera sees them; in the order of the appearance table, behind the floor's."""


class CardKey(NamedTuple):
    """Where a card stands: equal keys are equal triangles."""

    position: tuple[float, float, float]
    target: tuple[float, float, float]
    width: float
    height: float


def card_key(card: Card) -> CardKey:
    """Return the key of a card's triangles."""
    return CardKey(card.position, card.target, card.width, card.height)


def card_piece(key: CardKey) -> Piece:
    """The rectangle of a card, mm; it is one from both sides."""
    card = Card(name="card", position=key.position, target=key.target, width=key.width, height=key.height)
    corners, _ = corners_of(card)
    flat = corners.reshape(-1, 3).astype(np.float32)
    normals = np.broadcast_to(card.frame()[2], flat.shape).astype(np.float32)
    return Piece(flat, normals, np.arange(len(flat), dtype=np.uint32).reshape(-1, 3))
