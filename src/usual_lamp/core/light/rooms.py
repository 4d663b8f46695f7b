"""Rooms and skies, computed: what surrounds a product that stands on a table in them.

A room is a box with bright rectangles on its walls and ceiling. What its other surfaces show is the light that these
give them (closed form for an element and a small rectangle, added up) and what the whole room sends back once more.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
RGB = tuple[float, float, float]
WHITE: RGB = (1.0, 1.0, 1.0)
COARSE = 256
"""Columns of the map on which the walls are worked out; they have no sharp edges."""
SOFT = 0.06
"""Share of a window's half over which its edge fades."""


@dataclass(frozen=True)
class Window:
    """A bright rectangle on a surface of the room: middle and size as shares of it, -1..1 across and along."""

    surface: str
    """ceiling, left, right, front or back, as seen by who looks at the front of the product."""
    x: float
    y: float
    width: float
    height: float
    luminance: float
    tint: RGB = WHITE


@dataclass(frozen=True)
class Room:
    """A box of this width, depth and height (m), the product 1 m above its floor at `at` (m from the middle)."""

    size: tuple[float, float, float]
    windows: tuple[Window, ...]
    walls: RGB = (0.7, 0.7, 0.68)
    ceiling: RGB = (0.8, 0.8, 0.8)
    ground: RGB = (0.35, 0.34, 0.32)
    at: tuple[float, float] = (0.0, 0.0)

    def radiance(self, toward: Array) -> Array:
        """(..., 3), relative, for unit directions (..., 3); x to the right, y away from the front, z up."""
        rows, columns = toward.shape[:2]
        step = max(1, columns // COARSE)
        walls = self._walls(*self._met(toward[::step, ::step]))
        walls = np.repeat(np.repeat(walls, step, axis=0), step, axis=1)[:rows, :columns]
        if step > 1:
            walls = _smoothed(walls, step)
        point, surface = self._met(toward)
        walls, point, surface = walls.reshape(-1, 3), point.reshape(-1, 3), surface.ravel()
        for name in dict.fromkeys(window.surface for window in self.windows):
            here = np.flatnonzero(surface == SURFACES.index(name))
            walls[here] = self._with_windows(walls[here], point[here], name)
        return np.asarray(walls.reshape(rows, columns, 3))

    def _with_windows(self, walls: Array, point: Array, surface: str) -> Array:
        """What one surface shows at points of it, its windows over its walls."""
        for window in self.windows:
            if window.surface != surface:
                continue
            across, along = (np.abs(share) for share in self._shares(point, window))
            inside = np.clip((1 - across) / SOFT, 0, 1) * np.clip((1 - along) / SOFT, 0, 1)
            walls = walls * (1 - inside[:, None]) + inside[:, None] * window.luminance * np.array(window.tint)
        return walls

    def _half(self) -> Array:
        return np.array(self.size) / 2

    def _met(self, toward: Array) -> tuple[Array, NDArray[np.int64]]:
        """Where directions meet the room (m, from its middle), and the number of the surface there."""
        half = self._half()
        start = np.array([*self.at, 1.0 - half[2]])
        away = np.where(toward >= 0, 1e-9, -1e-9) + toward
        far = np.where(away > 0, half - start, -half - start) / away
        axis = far.argmin(axis=-1)
        reach = np.take_along_axis(far, axis[..., None], axis=-1)
        positive = np.take_along_axis(away, axis[..., None], axis=-1)[..., 0] > 0
        return start + toward * reach, axis * 2 + positive

    def _shares(self, point: Array, window: Window) -> tuple[Array, Array]:
        """Where points lie on a window: -1..1 within it both ways."""
        half = self._half()
        a, b = AXES[window.surface]
        across = (point[..., a] / half[a] - window.x) / window.width
        along = (point[..., b] / half[b] - window.y) / window.height
        return across, along

    def _walls(self, point: Array, surface: NDArray[np.int64]) -> Array:
        """What the surfaces show of the windows' light, and of each other's."""
        color = np.array([self.walls] * 4 + [self.ground, self.ceiling])[surface]
        normal = -SIGNS[surface]
        direct = np.zeros((*surface.shape, 3))
        half = self._half()
        power, area = np.zeros(3), 8 * (half[0] * half[1] + half[0] * half[2] + half[1] * half[2])
        for window in self.windows:
            number = SURFACES.index(window.surface)
            a, b = AXES[window.surface]
            size = 4 * window.width * window.height * half[a] * half[b]
            power += np.pi * window.luminance * size * np.array(window.tint)
            for i in (-0.5, 0.5):
                for j in (-0.5, 0.5):
                    place = SIGNS[number] * half
                    place[a] = (window.x + i * window.width) * half[a]
                    place[b] = (window.y + j * window.height) * half[b]
                    way = place - point
                    squared = (way**2).sum(axis=-1)
                    cosines = np.clip((way * normal).sum(axis=-1), 0, None) * np.clip(way @ SIGNS[number], 0, None)
                    received = cosines / np.maximum(squared**2, 0.05) * size / 4
                    direct += received[..., None] * window.luminance * np.array(window.tint)
        mean = (np.array(self.walls) * 4 + np.array(self.ground) + np.array(self.ceiling)) / 6
        again = power / area * mean / (1 - mean)
        return np.asarray(color / np.pi * (direct + again))


SURFACES = ("left", "right", "front", "back", "floor", "ceiling")
"""In the order of axis and sign: the viewer stands at the front (-y)."""
SIGNS = np.array([[-1, 0, 0], [1, 0, 0], [0, -1, 0], [0, 1, 0], [0, 0, -1], [0, 0, 1]], float)
AXES = {"left": (1, 2), "right": (1, 2), "front": (0, 2), "back": (0, 2), "ceiling": (0, 1)}


def _smoothed(image: Array, step: int) -> Array:
    """A blur over one coarse cell, round the horizon."""
    for axis in (0, 1):
        mode = "edge" if axis == 0 else "wrap"
        pad = [(step, step) if k == axis else (0, 0) for k in range(3)]
        sums = np.cumsum(np.pad(image, pad, mode=mode), axis=axis)  # type: ignore[call-overload]
        length = image.shape[axis]
        high = np.take(sums, range(2 * step, 2 * step + length), axis=axis)
        low = np.take(sums, range(0, length), axis=axis)
        image = (high - low) / (2 * step)
    return image


@dataclass(frozen=True)
class Sky:
    """A sky by the gradations of CIE S 011 (ISO 15469:2004), in colour from zenith to horizon, with a wide sun."""

    gradation: tuple[float, float]
    """a and b of the standard."""
    indicatrix: tuple[float, float, float]
    """c, d and e of the standard."""
    sun: tuple[float, float]
    """Azimuth from the front and elevation, degrees."""
    zenith: RGB
    horizon: RGB
    warm: RGB = WHITE
    """Colour of the sky around the sun."""
    disc: tuple[float, float] = (0.0, 0.0)
    """Radius in degrees and luminance over that of the zenith, of a sun veiled by haze; 0: none."""

    def radiance(self, toward: Array) -> Array:
        """(..., 3), relative, for unit directions; below the horizon as at it."""
        azimuth, elevation = np.radians(self.sun)
        sun = np.array([np.cos(elevation) * np.sin(azimuth), -np.cos(elevation) * np.cos(azimuth), np.sin(elevation)])
        height = np.clip(toward[..., 2], 0.02, 1.0)
        off = np.arccos(np.clip(toward @ sun, -1, 1))
        a, b = self.gradation
        c, d, e = self.indicatrix
        graded = (1 + a * np.exp(b / height)) / (1 + a * np.exp(b))

        def scattered(angle: Array) -> Array:
            """The indicatrix: relative luminance at an angle from the sun, radians."""
            found = 1 + c * (np.exp(d * angle) - np.exp(d * np.pi / 2)) + e * np.cos(angle) ** 2
            return np.asarray(found)

        level = graded * scattered(off) / scattered(np.array(np.pi / 2 - elevation))
        blend = (height**0.45)[..., None]
        color = np.array(self.horizon) * (1 - blend) + np.array(self.zenith) * blend
        near = np.exp(-np.square(off / 0.5))[..., None]
        color = color * (1 - near) + color * np.array(self.warm) * near
        radius, strength = self.disc
        bright = strength * np.clip((np.radians(radius * 1.3) - off) / np.radians(max(radius, 1e-3) * 0.6), 0, 1)
        return np.asarray(level[..., None] * color + bright[..., None] * np.array(self.warm))
