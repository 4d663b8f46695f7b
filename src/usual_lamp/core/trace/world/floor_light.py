"""How the floor is lit where nothing stands in the way of any light.

The floor shows the backdrop's colour where it is unshadowed, and that colour times the share of light that arrives
where it is not. Lamps light it unevenly, so what would arrive is tabulated over the floor: finely near the product,
coarsely far out, and most finely where it bends, as along the line in which a panel's plane meets the floor. Panels
that go through it are told apart (`floor_panel`).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter

from usual_lamp.core.light.lamp_shapes import illuminance
from usual_lamp.core.light.lamps import BaseLamp
from usual_lamp.core.scene.floor_plane import FloorPlane
from usual_lamp.core.scene.frozen import Triple
from usual_lamp.core.trace.engine import dr, mi, settled
from usual_lamp.core.trace.surface.table import Four
from usual_lamp.core.trace.world.floor_panel import floor_panel
from usual_lamp.core.trace.world.light_sample import LUMINANCE

Array = NDArray[np.float64]
FIRST, STEPS = 96, 2
"""Cells across the table at first, and how often they are halved where the light bends."""
GRID = FIRST * 2**STEPS + 1
BEND = 0.01
"""Of a lamp's most: where the light bends by more from one point of the table to the next, the ones between are worked
out; elsewhere they lie between. What is left of a kink is a few thousandths, which no one sees as a streak."""
LEAST_LIGHT = 1.0
"""lx, below which nothing can be shaded."""
EASE = 2.0
"""Radii from the middle within which half of the table lies."""
LEAST = 0.06
"""Share of the light in the middle: where less arrives, beyond a pool of light, the floor is shown as if the rest came
from all around, for there is nothing that could be shaded."""


class FloorLight:
    """Tables of illuminance by lamp, kept as long as the lamp, the floor and the product's middle stay."""

    def __init__(self) -> None:
        self._tables: dict[object, Array] = {}

    def follow(
        self,
        even: Array,
        lamps: Sequence[tuple[BaseLamp, Array]],
        center: Triple,
        radius: float,
        floor: FloorPlane,
        shadow: float = 1.0,
    ) -> None:
        """`even` (3,) lx comes from all around; each lamp has its gain (3,). Lengths in mm. `shadow` is the strength of
        shadows: the rest of the floor is shown as if nothing stood on it."""
        self.foot, self.axes, self.radius = np.array(floor.under(center)), floor.axes, radius
        place = (center, radius, floor)
        keys = [(lamp.model_copy(update={"level": 0.0, "on": True, "name": "lamp"}), place) for lamp, _ in lamps]
        self._tables = {
            key: self._tables[key] if key in self._tables else self._table(lamp)
            for key, (lamp, _) in zip(keys, lamps, strict=True)
        }
        total = np.broadcast_to(even, (GRID, GRID, 3)).copy()
        of_panels = np.zeros_like(total)
        panels = [floor_panel(lamp, gain, self.foot, self.axes, radius) for lamp, gain in lamps]
        for key, (_, gain), panel in zip(keys, lamps, panels, strict=True):
            (of_panels if panel else total)[...] += self._tables[key][..., None] * gain
        self.panels, self.shadow = [panel for panel in panels if panel], max(shadow, 1e-6)
        """Panels whose light the texels do not hold."""
        tabled = total @ LUMINANCE
        power = tabled + of_panels @ LUMINANCE
        missing = np.maximum(max(float(power[GRID // 2, GRID // 2]) * LEAST, LEAST_LIGHT) - power, 0.0)
        self.unlit = 1.0 - shadow * (1.0 - missing / (power + missing))
        """(GRID, GRID): share of what is shown that no light gives."""
        unlit = 1.0 - shadow * (1.0 - (missing + 1e-9) / (tabled + missing + 1e-9))
        self.texels = settled(np.concatenate([(total + missing[..., None]) / self.shadow, unlit[..., None]], axis=2))

    def _table(self, lamp: BaseLamp) -> Array:
        """(GRID, GRID) lx, rows along the second axis."""

        def exact(row: NDArray[np.int64], column: NDArray[np.int64]) -> Array:
            """lx at points of the table, (N,), by the closed form of the lamp (see `lamp_shapes.illuminance`)."""
            share = (np.stack([column, row], axis=1) / (GRID - 1) * 2 - 1) * 0.98
            far = np.sign(share) * EASE * np.abs(share) / (1.0 - np.abs(share)) * self.radius
            points = self.foot + far @ self.axes[:2]
            return illuminance(lamp, points, np.broadcast_to(self.axes[2], points.shape))

        size = FIRST + 1
        row, column = np.indices((size, size)).reshape(2, -1)
        table = exact(row * 2**STEPS, column * 2**STEPS).reshape(size, size)
        for step in reversed(range(STEPS)):
            table, open_ = _halved(table)
            row, column = np.nonzero(open_)
            table[row, column] = exact(row * 2**step, column * 2**step)
        return table

    def at(self, point: mi.Point3f, active: mi.Bool) -> tuple[mi.Color3f, mi.Float]:
        """lx at points of the floor, bilinear in the table, and the share of it that no light gives."""
        foot, side, along = (
            mi.Vector3f(*(dr.opaque(mi.Float, float(v)) for v in value)) for value in (self.foot, *self.axes[:2])
        )
        off, radius = mi.Vector3f(point) - foot, dr.opaque(mi.Float, self.radius)
        u, v = dr.dot(off, side), dr.dot(off, along)
        x, y = self._cell(u / radius), self._cell(v / radius)
        column, row = dr.minimum(mi.UInt32(x), GRID - 2), dr.minimum(mi.UInt32(y), GRID - 2)
        a, b = x - mi.Float(column), y - mi.Float(row)
        read = lambda at: dr.gather(Four, self.texels, at, active)  # noqa: E731
        first = row * GRID + column
        upper = read(first) * (1 - a) + read(first + 1) * a
        lower = read(first + GRID) * (1 - a) + read(first + GRID + 1) * a
        four = upper * (1 - b) + lower * b
        arrives, unlit = mi.Color3f(four[0], four[1], four[2]), four[3]
        if not self.panels:
            return arrives, unlit
        shadow = dr.opaque(mi.Float, self.shadow)
        with_panels = arrives + sum((panel.at(u, v) for panel in self.panels), mi.Color3f(0.0)) / shadow
        # What no light gives is the less of all the more the panels give.
        missing = (1 - (1 - unlit) / shadow) * mi.luminance(arrives) / dr.maximum(mi.luminance(with_panels), 1e-9)
        return with_panels, 1 - shadow * (1 - missing)

    @staticmethod
    def _cell(far: mi.Float) -> mi.Float:
        share = far / (dr.abs(far) + EASE) / 0.98
        return dr.clip((share * 0.5 + 0.5) * (GRID - 1), 0.0, GRID - 1.001)


def _halved(table: Array) -> tuple[Array, NDArray[np.bool_]]:
    """A table (N, N) on (2 N - 1, 2 N - 1) points, and which of the new ones lie where it bends."""
    size = 2 * len(table) - 1
    fine = np.empty((size, size))
    fine[::2, ::2] = table
    fine[1::2, ::2] = (table[:-1] + table[1:]) / 2
    fine[:, 1::2] = (fine[:, :-1:2] + fine[:, 2::2]) / 2
    bend = np.zeros(table.shape)
    bend[1:-1] = np.abs(np.diff(table, 2, axis=0))
    bend[:, 1:-1] = np.maximum(bend[:, 1:-1], np.abs(np.diff(table, 2, axis=1)))
    near = maximum_filter(bend, 3) > BEND * float(table.max(initial=0.0))
    open_ = np.zeros((size, size), bool)
    open_[::2, ::2] = near
    open_ = maximum_filter(open_, 3)
    open_[::2, ::2] = False
    return fine, open_
