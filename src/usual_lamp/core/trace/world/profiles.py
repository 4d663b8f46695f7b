"""Intensity tables of photometric lamps, as the tracer reads them: on an even grid of directions round the aim."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from usual_lamp.core.light.lamps import PhotometricLamp, Standing
from usual_lamp.core.trace.engine import dr, mi, settled
from usual_lamp.core.trace.surface.table import Four

DOWN, ROUND = 181, 73
"""Directions from the aim (1° apart) and round it (5° apart, the first once more at the end)."""
FRAME = 2
"""Rows of four numbers for each lamp: side and aim; up follows from them."""


class Profiles:
    """The tables of those lamps that have one, numbered from 1; 0 stands for lamps without."""

    def __init__(self, lamps: Sequence[Standing]) -> None:
        self._lamps = [lamp for lamp in lamps if isinstance(lamp, PhotometricLamp)]
        self.any = bool(self._lamps)
        if not self.any:
            return
        down, turn = np.radians(np.linspace(0, 180, DOWN)), np.radians(np.linspace(0, 360, ROUND))
        sine = np.sin(down)[None, :]
        ways = np.stack(
            [
                sine * np.cos(turn)[:, None],
                sine * np.sin(turn)[:, None],
                np.broadcast_to(np.cos(down), (ROUND, DOWN)),
            ],
            axis=-1,
        )
        self.tables = settled(np.stack([lamp.intensity(ways) for lamp in self._lamps]))
        frames = np.array([lamp.frame()[[0, 2]] for lamp in self._lamps])
        self.frames = settled(np.concatenate([frames, np.zeros((*frames.shape[:2], 1))], axis=2))

    def number_of(self, lamp: Standing) -> int:
        """Number of a lamp's table; 0 where it has none."""
        return next((k + 1 for k, one in enumerate(self._lamps) if one is lamp), 0)

    def toward(self, number: mi.UInt32, direction: mi.Vector3f, active: mi.Bool) -> mi.Float | float:
        """cd that a lamp sends against a direction, in which it is seen; 1 where it has no table."""
        if not self.any:
            return 1.0
        listed = active & (number > 0)
        first = (number - 1) * FRAME
        a, b = dr.gather(Four, self.frames, first, listed), dr.gather(Four, self.frames, first + 1, listed)
        side, aim = mi.Vector3f(a[0], a[1], a[2]), mi.Vector3f(b[0], b[1], b[2])
        cosine = -dr.dot(aim, direction)
        x, y = -dr.dot(side, direction), -dr.dot(dr.cross(aim, side), direction)
        turn = dr.atan2(y, x) * dr.inv_two_pi
        across = (turn - dr.floor(turn)) * (ROUND - 1)
        along = dr.acos(dr.clip(cosine, -1.0, 1.0)) * dr.inv_pi * (DOWN - 1)
        column, row = dr.minimum(mi.UInt32(across), ROUND - 2), dr.minimum(mi.UInt32(along), DOWN - 2)
        u, v = across - mi.Float(column), along - mi.Float(row)
        at = (number - 1) * (ROUND * DOWN) + column * DOWN + row
        read = lambda place: dr.gather(mi.Float, self.tables, place, listed)  # noqa: E731
        near = dr.lerp(read(at), read(at + 1), v)
        return dr.select(listed, dr.lerp(near, dr.lerp(read(at + DOWN), read(at + DOWN + 1), v), u), 1.0)
