"""What a surface does with light: how much it scatters, by kind, and a direction drawn from its lobes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

from usual_lamp.core.trace.engine import dr, mi

Amount: TypeAlias = mi.Float | mi.Color3f
"""A number, or one for each channel where a thin film colours it."""


def luminance(color: Amount) -> mi.Float:
    """Return the luminance of linear Rec. 709 (ITU-R BT.709)."""
    return mi.luminance(color) if isinstance(color, mi.Color3f) else color


@dataclass
class Scattered:
    """f(wi, wo) |cos_o| by kind."""

    diffuse: mi.Color3f
    specular: mi.Color3f
    passed: mi.Color3f
    """Through the wall, to the other side."""

    def total(self) -> mi.Color3f:
        """Return all kinds of scattering together."""
        return self.diffuse + self.specular + self.passed

    def where(self, mask: mi.Bool) -> Scattered:
        """Return the same where the mask holds, and nothing elsewhere."""
        return Scattered(*(dr.select(mask, v, 0.0) for v in (self.diffuse, self.specular, self.passed)))


@dataclass
class Drawn:
    """A direction drawn from the lobes."""

    wo: mi.Vector3f
    through: mi.Bool
    """Straight (refracted) through the wall."""
    valid: mi.Bool
    """A facet may mirror a ray downwards, or reflect totally where passing was asked for: that counts as black."""
    broad: mi.Bool
    """From a diffuse lobe."""
    enters: mi.Bool
    """Goes on as a walk inside the body; wo then points into it, drawn by the cosine."""
    entry: mi.Color3f
    """Weight of such an entry."""


def coupled(e_i: Amount, e_o: Amount, e_average: Amount, cos_o: mi.Float) -> Amount:
    """(1 - E(i)) (1 - E(o)) / (π (1 - E_avg)) cos_o; its albedo is 1 - E(i)."""
    return (1 - e_i) * (1 - e_o) * cos_o / (dr.pi * dr.maximum(1 - e_average, 1e-6))
