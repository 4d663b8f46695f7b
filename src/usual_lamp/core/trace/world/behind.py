"""What lies behind everything: a colour, a gradient, the surroundings or a photo, as colours of the picture.

They are in cd/m² at the reference exposure, so that 1 is white there, whatever the light is.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import hex_to_linear
from usual_lamp.core.camera import exposure_scale
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.scene.document import Backdrop
from usual_lamp.core.trace.engine import dr, mi, settled
from usual_lamp.core.trace.surface.table import Four
from usual_lamp.core.trace.world.lights import EnvironmentMap

Array = NDArray[np.float64]
SHOULDER = 0.8
"""Of white: brighter surroundings are pressed together under white, so that lamps in them keep an outline."""


class Behind:
    """A backdrop that can be looked at; `kind` decides which kernel does."""

    def __init__(
        self,
        backdrop: Backdrop,
        aspect: float,
        environment: EnvironmentMap | None = None,
        photo: NDArray[np.float32] | None = None,
        middle: tuple[float, float, float] = (0.0, 0.0, 0.0),
    ) -> None:
        """`environment` is turned and blurred already, and seen from `middle` (mm) where it lies on the ground; `photo`
        is (H, W, 4), scene-linear 0..1."""
        scale = 1.0 / exposure_scale(REFERENCE_EV)
        plain = backdrop.transparent or backdrop.kind == "plain"
        self.kind = "photo" if photo is not None else "environment" if environment is not None else "color"
        self.bottom = np.array(hex_to_linear(backdrop.bottom)) * scale
        self.top = np.array(hex_to_linear(backdrop.bottom if plain else backdrop.top)) * scale
        self.radial, self.aspect, self.environment = backdrop.kind == "radial", aspect, environment
        self.level, self.middle = 2.0**backdrop.level, middle
        self.reach, self.viewpoint = backdrop.reach, backdrop.viewpoint
        self.grounded = backdrop.grounded and self.kind == "environment"
        if photo is not None:
            self.height, self.width = photo.shape[:2]
            self.texels = settled(photo * np.array([scale, scale, scale, 1.0], np.float32))
            self.place = _place(backdrop, self.width / self.height, aspect)

    def at(self, ray: mi.Ray3f, s: mi.Float, t: mi.Float) -> mi.Color3f:
        """The colour behind a place in the picture, s from the left and t from the top in 0..1."""
        number = lambda value: dr.opaque(mi.Float, float(value))  # noqa: E731
        top, bottom = (mi.Color3f(*(number(v) for v in color)) for color in (self.top, self.bottom))
        if self.kind == "environment":
            assert self.environment is not None
            white = number(1.0 / exposure_scale(REFERENCE_EV))
            seen = self.environment.radiance(self._toward(ray) if self.grounded else ray.d, mi.Bool(True)) * (
                number(self.level) / white
            )
            over = dr.maximum(seen - SHOULDER, 0.0) / (1 - SHOULDER)
            return dr.minimum(seen, SHOULDER + (1 - SHOULDER) * (1 - dr.exp(-over))) * white
        across, down = (s - 0.5) * number(self.aspect), t - 0.5
        reach = number(0.5 * np.hypot(self.aspect, 1.0))
        share = dr.lerp(1 - t, dr.sqrt(dr.square(across) + dr.square(down)) / reach, number(self.radial))
        graded = dr.lerp(bottom, top, dr.square(share) * (3 - 2 * share))
        if self.kind == "color":
            return graded
        wide, high, right, low = (number(v) for v in self.place)
        u, v = (s - 0.5 - right) / wide + 0.5, (t - 0.5 - low) / high + 0.5
        found = self._photo(u, v)
        inside = (u >= 0) & (u <= 1) & (v >= 0) & (v <= 1)
        color = mi.Color3f(found[0], found[1], found[2]) * number(self.level)
        return dr.lerp(graded, color, dr.select(inside, found[3], 0.0))

    def _toward(self, ray: mi.Ray3f) -> mi.Vector3f:
        """Where the surroundings show what a ray meets: the ground within their reach, and a dome beyond it."""
        number = lambda value: dr.opaque(mi.Float, float(value))  # noqa: E731
        from_middle = mi.Vector3f(ray.o - mi.Point3f(*(number(v) for v in self.middle)))
        along, out = dr.dot(from_middle, ray.d), dr.squared_norm(from_middle)
        within = dr.safe_sqrt(dr.square(along) - out + dr.square(number(self.reach)))
        ground = -(from_middle.z + number(self.viewpoint)) / dr.select(ray.d.z < -1e-6, ray.d.z, -1e-9)
        far = dr.select((ray.d.z < -1e-6) & (ground > 0), dr.minimum(ground, within - along), within - along)
        return dr.normalize(from_middle + ray.d * dr.maximum(far, 1e-3))

    def _photo(self, u: mi.Float, v: mi.Float) -> Four:
        width, height = dr.opaque(mi.UInt32, self.width), dr.opaque(mi.UInt32, self.height)
        x = dr.clip(u * mi.Float(width) - 0.5, 0.0, mi.Float(width) - 1.001)
        y = dr.clip(v * mi.Float(height) - 0.5, 0.0, mi.Float(height) - 1.001)
        column, row = mi.UInt32(x), mi.UInt32(y)
        a, b = x - mi.Float(column), y - mi.Float(row)
        read = lambda at: dr.gather(Four, self.texels, at)  # noqa: E731
        first = row * width + column
        upper = read(first) * (1 - a) + read(first + 1) * a
        return upper * (1 - b) + (read(first + width) * (1 - a) + read(first + width + 1) * a) * b


def _place(backdrop: Backdrop, photo: float, picture: float) -> tuple[float, float, float, float]:
    """Width, height, and shift to the right and downwards, as shares of the picture; from the aspects of both."""
    wider = photo > picture
    fills = backdrop.fit == "fill"
    across = photo / picture if wider == fills else 1.0
    down = picture / photo if wider != fills else 1.0
    size = backdrop.scale
    return across * size, down * size, backdrop.shift[0], backdrop.shift[1]
