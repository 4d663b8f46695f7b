"""What pictures put on a surface: paint, print, foil and light of their own."""

from __future__ import annotations

from dataclasses import dataclass

from usual_lamp.core.trace.engine import dr, mi


@dataclass
class Covering:
    """Per lane, what takes the place of an appearance's own values."""

    base: mi.Color3f
    """In place of the base's colour."""
    roughness: mi.Float
    """In place of the specular roughness."""
    printed: mi.Float | None = None
    """Share that print covers: it is neither metal nor clear."""
    foil: mi.Float | None = None
    """Share that foil covers: it is metal in the base's colour."""

    def body(self, metalness: mi.Float, transmission: mi.Float) -> tuple[mi.Float, mi.Float]:
        """How much of the surface is metal and how much is clear, of what it was without."""
        if self.printed is not None:
            metalness, transmission = metalness * (1 - self.printed), transmission * (1 - self.printed)
        if self.foil is not None:
            metalness, transmission = dr.lerp(metalness, 1.0, self.foil), transmission * (1 - self.foil)
        return metalness, transmission

    def gloss(self, specular: mi.Float, inside: mi.Bool) -> mi.Float:
        """The weight of the specular lobe, of what it was without: ink on the far side of a clear body touches it, and
        there is no wall between them that could mirror."""
        if self.printed is None:
            return specular
        return dr.select(inside, specular * (1 - self.printed), specular)
