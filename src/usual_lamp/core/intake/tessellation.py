"""How finely to tessellate: chord tolerance scaled to the model, angle tolerance by quality.

The angle dominates the triangle count on small round features; the chord decides the silhouette of large ones.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Quality = Literal["coarse", "fair", "fine"]

OVER = 1.2
"""Times the chord tolerance that a mesh may lie off its surface before it is made anew."""


@dataclass(frozen=True)
class Tessellation:
    """Share of the model's box diagonal allowed as chord, and the angle between neighbouring facets (radians)."""

    chord_share: float
    angle: float

    def chord(self, diagonal: float) -> float:
        """Chord tolerance in mm for a model whose box has this diagonal in mm."""
        return max(diagonal * self.chord_share, 1e-4)


QUALITIES: dict[Quality, Tessellation] = {
    "coarse": Tessellation(1 / 800, 0.6),
    "fair": Tessellation(1 / 2800, 0.3),
    "fine": Tessellation(1 / 7000, 0.17),
}
