"""What light a path brings home: summed as a whole or by group of lights, and held under the clamp."""

from __future__ import annotations

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.transport.book import Book
from usual_lamp.core.trace.transport.path import Path
from usual_lamp.core.trace.world.lights import Lights


def layer_of(p: Path) -> mi.UInt32:
    """Place in `kinds_of_light.LAYERS` of light that a path meets now."""
    return Book.layer_of(p.kind, p.scatterings)


class Account:
    """Adds light to paths. `clamp` is in cd/m², see `integrator.trace`."""

    def __init__(self, lights: Lights, clamp: mi.Float) -> None:
        self.lights, self.clamp = lights, clamp

    def add(
        self, p: Path, light: mi.Color3f, active: mi.Bool, group: mi.UInt32, layer: mi.UInt32 | None, on_floor: mi.Bool
    ) -> None:
        """Light of a group at its nominal level, of a `layer` of the book, or booked already; `on_floor`: it shows the
        floor that stands for the backdrop."""
        light = dr.select(active, light, 0.0)
        gain = self.lights.gain(group, active)
        light *= self.hold(p, light, gain)
        for k in range(len(p.groups.light)):
            own = dr.select(group == k, light, 0.0)
            p.groups.light[k] += dr.select(on_floor, 0.0, own)
            p.groups.floor[k] += dr.select(on_floor, own, 0.0)
        light *= gain
        if not p.groups.light:
            p.light += light
            p.backdrop += dr.select(on_floor, light, 0.0)
        if layer is not None:
            p.book.put(light, Book.source_of(group), layer)

    def add_backdrop(self, p: Path, light: mi.Color3f, active: mi.Bool) -> None:
        """The backdrop itself, which no light changes."""
        light = dr.select(active, light, 0.0)
        light *= self.hold(p, light, mi.Color3f(1.0))
        p.light += light
        p.backdrop += light
        p.book.put(light, mi.UInt32(0), Book.layer_behind(p.kind, p.scatterings, p.open))

    def hold(self, p: Path, light: mi.Color3f, gain: mi.Color3f) -> mi.Float:
        """Share of indirect light under the clamp: single samples far above the picture's white are grain, not light.
        Light that is off is held as if it were on."""
        peak = dr.max(light * dr.select(gain > 0, gain, 1.0))
        return dr.select(p.scatterings > 1, dr.minimum(1.0, self.clamp / dr.maximum(peak, 1e-9)), 1.0)
