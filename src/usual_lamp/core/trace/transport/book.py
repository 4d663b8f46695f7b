"""Layers of a picture: every bit of light is booked under how it came and where it came from.

`LAYERS` add up to the picture, and so do `SOURCES`. The path kernel carries this book only where layers are asked for.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.kinds_of_light import DIRECT, LAYERS, SOURCES

NONE, DIFFUSE, SPECULAR, PASSED = range(4)
"""Kinds of the first event on the way from the camera."""


@dataclass
class Book:
    """Sums per lane: a Dr.Jit pytree, may be loop state."""

    layers: list[mi.Color3f] = field(default_factory=list)
    sources: list[mi.Color3f] = field(default_factory=list)
    direct: list[mi.Color3f] = field(default_factory=list)

    @staticmethod
    def opened(lanes: int, sources: bool = True) -> Book:
        """Return a book that is kept, empty, for so many paths; with its `sources`, or by kind alone."""
        kept = LAYERS, SOURCES if sources else (), DIRECT
        return Book(*([dr.zeros(mi.Color3f, lanes) for _ in names] for names in kept))

    def put(self, light: mi.Color3f, source: mi.UInt32, layer: mi.UInt32) -> None:
        """Book light; zero in lanes that have none. Nothing happens in a book that was never opened."""
        for k in range(len(self.layers)):
            self.layers[k] += dr.select(layer == k, light, 0.0)
        for k in range(len(self.sources)):
            self.sources[k] += dr.select(source == k, light, 0.0)

    def put_direct(self, unshadowed: mi.Color3f, shadow: mi.Color3f) -> None:
        """Book direct light with and without the shadows that fall on it."""
        if self.direct:
            self.direct[0] += unshadowed
            self.direct[1] += unshadowed * shadow

    @staticmethod
    def source_of(group: mi.UInt32) -> mi.UInt32:
        """Place in SOURCES of a group of lights, see `light_groups`."""
        return dr.minimum(mi.UInt32(group) + 1, len(SOURCES) - 1)

    @staticmethod
    def layer_of(kind: mi.UInt32, scatterings: mi.UInt32) -> mi.UInt32:
        """Place in LAYERS of light that arrives after so many scatterings, the first of this kind."""
        direct = dr.select(scatterings <= 1, mi.UInt32(0), mi.UInt32(1))
        lobes = dr.select(kind == DIFFUSE, 2 + direct, dr.select(kind == SPECULAR, 4 + direct, mi.UInt32(6)))
        return dr.select(kind == NONE, mi.UInt32(1), lobes)

    @staticmethod
    def layer_behind(kind: mi.UInt32, scatterings: mi.UInt32, open: mi.Bool) -> mi.UInt32:
        """The same for what lies behind everything: the backdrop where it is `open` to the camera."""
        return dr.select(open & (kind == NONE), mi.UInt32(0), Book.layer_of(kind, scatterings))

    def everything(self) -> dict[str, mi.Color3f]:
        """Return all sums by name."""
        names = (*LAYERS, *(f"from_{source}" for source in SOURCES), *DIRECT)
        return dict(zip(names, [*self.layers, *self.sources, *self.direct], strict=True))
