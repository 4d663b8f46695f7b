"""Which clear bodies a ray is within, where bodies nest and overlap.

After C. M. Schmidt and B. Budge, "Simple Nested Dielectrics in Ray Traced Images", Journal of Graphics Tools 7(2),
2002: every body has a rank, and where several overlap only the first of them is there. A wall that lies within a body
that goes before is none: light passes it as it is. What is left of a wall parts the body from what is then outside
it, which is the next body, or air. The rank is the index of refraction, see `joints`.
"""

from __future__ import annotations

import functools
import operator
from dataclasses import dataclass, field

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface.table import AppearanceTable

MATCHED = 5e-5
"""Indices closer than this neither mirror nor bend."""
SLOTS = 3
"""Bodies that a ray can be within at once; of more, the last to come is not noted."""


@dataclass
class Interior:
    """The bodies that each ray is within (a Dr.Jit pytree); with no slots where none has to be known."""

    bodies: list[mi.UInt32] = field(default_factory=list)
    """Part's place in the inputs + 1; 0 where a slot is free."""
    worn: list[mi.UInt32] = field(default_factory=list)
    """Appearance of each."""

    @staticmethod
    def empty(n: int) -> Interior:
        """Rays in air."""
        return Interior(*([dr.zeros(mi.UInt32, n) for _ in range(SLOTS)] for _ in range(2)))

    def without(self, body: mi.UInt32, active: mi.Bool) -> Interior:
        """The same without a body."""
        return Interior([dr.select(active & (b == body), 0, b) for b in self.bodies], list(self.worn))

    def plus(self, body: mi.UInt32, worn: mi.UInt32, active: mi.Bool) -> Interior:
        """The same with one more body."""
        bodies, appearances = [], []
        waits = mi.Bool(active)
        for b, w in zip(self.bodies, self.worn, strict=True):
            here = waits & (b == 0)
            bodies.append(dr.select(here, body, b))
            appearances.append(dr.select(here, worn, w))
            waits &= ~here
        return Interior(bodies, appearances)

    def where(self, mask: mi.Bool, other: Interior) -> Interior:
        """This one where the mask holds, the other elsewhere."""
        return Interior(
            [dr.select(mask, a, b) for a, b in zip(self.bodies, other.bodies, strict=True)],
            [dr.select(mask, a, b) for a, b in zip(self.worn, other.worn, strict=True)],
        )

    def lasting(
        self, table: AppearanceTable, index: mi.UInt32, leaving: mi.Bool, way: mi.Float, active: mi.Bool
    ) -> mi.Color3f:
        """Share of light that lasts on a way (mm) to a wall, by Beer's law. One that leaves a body which it is not
        known to be within was in it all the same."""
        medium = self.medium(table, active)
        unknown = active & leaving & ~medium.there
        absorption, _ = table.block("absorption", dr.select(unknown, index, medium.worn), active)
        return dr.select(active & (medium.there | unknown), dr.exp(-absorption * way), 1.0)

    def is_within_any(self) -> mi.Bool:
        """Whether a ray is within any body."""
        return functools.reduce(operator.or_, (body > 0 for body in self.bodies))

    def ior(self, table: AppearanceTable, active: mi.Bool) -> mi.Float:
        """Index of what the ray goes through; 1 in air."""
        return dr.if_stmt(  # type: ignore[no-any-return]
            (self,),
            active & self.is_within_any(),
            lambda interior: interior.medium(table, active).ior,
            lambda interior: mi.Float(1.0),
            label="medium",
        )

    def medium(self, table: AppearanceTable, active: mi.Bool) -> Medium:
        """What the ray goes through."""
        n = dr.width(active)
        found = Medium(dr.zeros(mi.UInt32, n), dr.zeros(mi.UInt32, n), dr.full(mi.Float, 1.0, n))
        for body, worn in zip(self.bodies, self.worn, strict=True):
            there = active & (body > 0)
            ior = table.block("kind", worn, there)[0].y
            before = there & ~found.before(body, ior)
            found = Medium(
                dr.select(before, body, found.body),
                dr.select(before, worn, found.worn),
                dr.select(before, ior, found.ior),
            )
        return found


@dataclass
class Medium:
    """The body that is there: its number (0 for air), appearance and index."""

    body: mi.UInt32
    worn: mi.UInt32
    ior: mi.Float

    @property
    def there(self) -> mi.Bool:
        """Whether it is a body, and not air."""
        return self.body > 0

    def before(self, body: mi.UInt32, ior: mi.Float) -> mi.Bool:
        """Whether it goes before a body of that number and index."""
        return self.there & ((self.ior > ior) | ((self.ior == ior) & (self.body < body)))

    def optics(self, table: AppearanceTable) -> tuple[mi.Float, mi.Color3f]:
        """Index, and what its colour takes of light that crosses its wall."""
        tint, _ = table.block("tint", self.worn, self.there)
        return self.ior, dr.select(self.there, tint, mi.Color3f(1.0))


@dataclass
class Wall:
    """A wall of a clear body, as a ray meets it."""

    passed: mi.Bool
    """Light goes straight on: the wall is within a body that goes before, or between two of the same index."""
    tint: mi.Color3f
    """What it loses there all the same."""
    beyond: Medium
    """What is outside of the wall's own body."""
    crossed: Interior
    """Where a ray is that passes."""

    @staticmethod
    def none(interior: Interior) -> Wall:
        """No wall of a clear body."""
        air = Medium(mi.UInt32(0), mi.UInt32(0), mi.Float(1.0))
        return Wall(mi.Bool(False), mi.Color3f(1.0), air, interior)


def meet(
    table: AppearanceTable,
    interior: Interior,
    body: mi.UInt32,
    index: mi.UInt32,
    entering: mi.Bool,
    solid: mi.Bool,
) -> Wall:
    """What a ray within `interior` meets at a wall of a body; lanes that are not `solid` meet none of interest."""
    rest = interior.without(body, solid)
    beyond = rest.medium(table, solid)
    ior = table.block("kind", index, solid)[0].y
    hidden = solid & beyond.before(body, ior)
    matched = solid & beyond.there & (dr.abs(ior - beyond.ior) < MATCHED)
    own, _ = table.block("tint", index, matched)
    tint = dr.select(matched & ~hidden, own * beyond.optics(table)[1], 1.0)
    return Wall(hidden | matched, tint, beyond, rest.plus(body, index, solid & entering))
