"""Light sources and how directions towards them are drawn.

Surroundings: the map is cut into ROWS times COLUMNS pieces, drawn by their power by inverting running sums, so that
well-spread random numbers stay well spread. A path that leaves the scene reads its density with one load. Power counts
from the map's mean on: what is even about the light, paths that scatter by themselves meet as well, so the samples go
to what stands out of it (MIS compensation, O. Karlik et al., "MIS Compensation: Optimizing Sampling Techniques in
Multiple Importance Sampling", ACM Transactions on Graphics 38(6), 2019).

Glowing parts: triangles are drawn in proportion to area times luminance, so that the density over area is the
emitting surface's luminance over the total, known at every hit without asking which triangle it was.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.scene.light_groups import ENVIRONMENT, GLOW, LightGroups
from usual_lamp.core.trace.engine import dr, mi, settled
from usual_lamp.core.trace.surface.table import Four
from usual_lamp.core.trace.world.lamps import Distant, Lamps
from usual_lamp.core.trace.world.light_sample import LUMINANCE, LightSample, TrianglePoint
from usual_lamp.core.trace.world.running_sums import RunningSums

ROWS, COLUMNS = 256, 512
LEAST_POWER = 0.01
"""Of a map's mean luminance, by which also directions darker than that are drawn."""
GLOW_SHARE = 0.2
"""Share of light samples that go to glowing parts, where there are any."""
LEAST_SHARE = 0.1
"""Of light samples that surroundings, lamps or distant lights get, where there are any, however dim they are."""


def _overlaps(pieces: int, size: int) -> NDArray[np.float64]:
    """(pieces, size): how much of each of `size` equal parts of 0..1 lies in each of so many others, in parts."""
    cuts, edges = np.linspace(0.0, size, pieces + 1), np.arange(size + 1)
    return np.clip(np.minimum(cuts[1:, None], edges[1:]) - np.maximum(cuts[:-1, None], edges[:-1]), 0.0, None)


def _bilinear_means(values: NDArray[np.floating]) -> NDArray[np.float64]:
    """(H, W): the mean over each texel of what is read between texels: a bright one shines into those beside it."""
    down = np.concatenate([values[:1], values, values[-1:]]).astype(np.float64)
    found = 0.75 * down[1:-1] + 0.125 * (down[:-2] + down[2:])
    return np.asarray(0.75 * found + 0.125 * (np.roll(found, 1, axis=1) + np.roll(found, -1, axis=1)))


class EnvironmentMap:
    """A latitude-longitude map of radiance (H, 2H, 3), row 0 at the zenith."""

    def __init__(self, image: NDArray[np.float32], turn: float = 0.0) -> None:
        self.height, self.width = image.shape[:2]
        padded = np.concatenate([image, np.zeros_like(image[..., :1])], axis=-1).astype(np.float32)
        self.texels = settled(padded)
        sine = np.sin((np.arange(self.height) + 0.5) * np.pi / self.height)
        luminance = _bilinear_means(image @ LUMINANCE)
        mean = float((sine @ luminance).mean() / sine.mean() / self.height)
        power = (np.maximum(luminance - mean, 0.0) + LEAST_POWER * mean + 1e-12) * sine[:, None]
        power = _overlaps(ROWS, self.height) @ power @ _overlaps(COLUMNS, self.width).T
        self.rows, self.columns = RunningSums(power.sum(axis=1)[None]), RunningSums(power)
        self.shares = settled(self.rows.shares.T * self.columns.shares)
        self.adjust(turn)

    def adjust(self, turn: float) -> None:
        """Turn the map about the vertical (degrees), which leaves its power where it lies in it."""
        self.turn = dr.opaque(mi.Float, float(np.radians(turn)))

    def radiance(self, direction: mi.Vector3f, active: mi.Bool) -> mi.Color3f:
        """What comes from a direction, bilinear between texels."""
        return self._read(*self._place(direction), active)

    def _read(self, u: mi.Float, v: mi.Float, active: mi.Bool) -> mi.Color3f:
        """The map's radiance at a place in it, both coordinates 0 to 1."""
        x, y = u * self.width - 0.5, dr.clip(v * self.height - 0.5, 0.0, self.height - 1.001)
        column, line = dr.floor(x), mi.UInt32(y)
        a, b = x - column, y - mi.Float(line)
        left = mi.UInt32(mi.Int32(column) + self.width) % self.width
        right = dr.select(left + 1 == self.width, 0, left + 1)
        top, low = line * self.width, (line + 1) * self.width
        read = lambda place: dr.gather(Four, self.texels, place, active)  # noqa: E731
        upper = read(top + left) * (1 - a) + read(top + right) * a
        lower = read(low + left) * (1 - a) + read(low + right) * a
        four = upper * (1 - b) + lower * b
        return mi.Color3f(four[0], four[1], four[2])

    def sample(self, point: mi.Point2f, active: mi.Bool) -> LightSample:
        """Return a direction towards the environment, sampled by luminance, with its pdf per steradian."""
        row, v, of_all = self.rows.inverted(mi.UInt32(0), point.y, active)
        column, u, of_row = self.columns.inverted(row, point.x, active)
        u, v = (mi.Float(column) + u) / COLUMNS, (mi.Float(row) + v) / ROWS
        direction, sine = self._direction(u, v)
        radiance, density = self._read(u, v, active), self._density(of_all * of_row, sine)
        return LightSample(direction, mi.Float(1e6), radiance, density, mi.UInt32(ENVIRONMENT), mi.Bool(True))

    def density(self, direction: mi.Vector3f, active: mi.Bool) -> mi.Float:
        """Of `sample`, per steradian."""
        u, v = self._place(direction)
        row, column = dr.minimum(mi.UInt32(v * ROWS), ROWS - 1), dr.minimum(mi.UInt32(u * COLUMNS), COLUMNS - 1)
        share = dr.gather(mi.Float, self.shares, row * COLUMNS + column, active)
        return self._density(share, dr.safe_sqrt(1 - dr.square(direction.z)))

    @staticmethod
    def _density(share: mi.Float, sine: mi.Float) -> mi.Float:
        """Share of a piece over its solid angle; the map spans 2π by π."""
        return share * (ROWS * COLUMNS / (2.0 * dr.pi**2)) / dr.maximum(sine, 1e-6)

    def _place(self, direction: mi.Vector3f) -> tuple[mi.Float, mi.Float]:
        azimuth = dr.atan2(direction.x, -direction.y) - self.turn
        u = azimuth * dr.inv_two_pi + 0.5
        return u - dr.floor(u), dr.acos(dr.clip(direction.z, -1.0, 1.0)) * dr.inv_pi

    def _direction(self, u: mi.Float, v: mi.Float) -> tuple[mi.Vector3f, mi.Float]:
        sin_a, cos_a = dr.sincos((u - 0.5) * dr.two_pi + self.turn)
        sin_p, cos_p = dr.sincos(v * dr.pi)
        return mi.Vector3f(sin_p * sin_a, -sin_p * cos_a, cos_p), sin_p


class Glow:
    """Triangles of glowing parts: corners (T, 3, 3) mm and radiance (T, 3) cd/m²."""

    def __init__(self, corners: NDArray[np.float32], radiance: NDArray[np.float64], room: int = 1) -> None:
        """`room` is the least number of triangles that the kernel is compiled for."""
        self.shines = len(corners) > 0
        if not self.shines:
            corners, radiance = np.zeros((1, 3, 3), np.float32), np.zeros((1, 3))
        edge = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]).astype(np.float64)
        power = np.linalg.norm(edge, axis=1) / 2 * (radiance @ LUMINANCE)
        total = float(power.sum())
        self.per_luminance = mi.Float(1.0 / total if total > 0 else 0.0)
        self.powers, self.corners, self.color = RunningSums.padded(power, room), settled(corners), settled(radiance)
        dr.make_opaque(self.per_luminance)

    def sample(self, origin: mi.Point3f, point: mi.Point2f, active: mi.Bool) -> LightSample:
        """Return a point on a glowing triangle, sampled by power, as seen from `origin`."""
        found = TrianglePoint.drawn(self.powers, self.corners, point, active)
        n = dr.normalize(dr.cross(found.b - found.a, found.c - found.a))
        radiance = mi.Color3f(dr.gather(mi.Vector3f, self.color, found.index, active))
        way = mi.Vector3f(found.place - origin)
        distance = dr.norm(way)
        direction = way / dr.maximum(distance, 1e-9)
        density = self.density(radiance, distance, -dr.dot(n, direction))
        radiance = dr.select(density > 0, radiance, 0.0)
        return LightSample(direction, distance, radiance, density, mi.UInt32(GLOW), mi.Bool(True))

    def density(self, radiance: mi.Color3f, distance: mi.Float, cosine: mi.Float) -> mi.Float:
        """Of `sample` for a glowing point seen from that distance under that cosine, per steradian."""
        over_area = mi.luminance(radiance) * self.per_luminance
        return dr.select(cosine > 1e-6, over_area * dr.square(distance) / dr.maximum(cosine, 1e-6), 0.0)


class Lights:
    """All that gives light: surroundings, glowing parts, lamps, and lights far away."""

    def __init__(
        self,
        environment: EnvironmentMap,
        glow: Glow | None,
        lamps: Lamps | None,
        distant: Distant | None,
        groups: LightGroups,
        lit: tuple[float, float, float],
        white: float,
    ) -> None:
        """`lit` is what surroundings, lamps and distant lights give in the middle of the product, lx: by this the
        light samples are shared out. Those with None are not compiled in. `white` is about what a white surface there
        sends back at nominal levels, cd/m²."""
        self.environment, self.glow, self.lamps, self.distant = environment, glow, lamps, distant
        self.gains = settled(groups.gains)
        self.white = dr.opaque(mi.Float, white)
        glow_share = GLOW_SHARE if glow is not None and glow.shines else 0.0
        there = np.array([True, lamps is not None and lamps.shines, distant is not None and distant.shines])
        shares = np.where(there, np.maximum(np.array(lit) / max(sum(lit), 1e-9), LEAST_SHARE), 0.0)
        shares *= (1 - glow_share) / shares.sum()
        self.environment_share, self.lamp_share, self.distant_share, self.glow_share = (
            dr.opaque(mi.Float, float(share)) for share in (*shares, glow_share)
        )

    def gain(self, group: mi.UInt32, active: mi.Bool) -> mi.Color3f:
        """What the light of a group is multiplied by in the picture."""
        return mi.Color3f(dr.gather(mi.Vector3f, self.gains, group, active))

    def sample(self, origin: mi.Point3f, point: mi.Point2f, active: mi.Bool) -> LightSample:
        """A direction towards some light, with the density of all of `sample`."""
        found = self.environment.sample(mi.Point2f(self._within(point.x, 0.0, self.environment_share), point.y), active)
        found.density *= self.environment_share
        low = self.environment_share
        for source, share in (
            (self.glow, self.glow_share),
            (self.lamps, self.lamp_share),
            (self.distant, self.distant_share),
        ):
            if source is None:
                continue
            here = active & (point.x >= low) & (share > 0)
            inner = mi.Point2f(self._within(point.x, low, share), point.y)

            def other(
                o: mi.Point3f,
                q: mi.Point2f,
                *was: object,
                source: Glow | Lamps | Distant = source,
                here: mi.Bool = here,
            ) -> tuple[mi.Vector3f, mi.Float, mi.Color3f, mi.Float, mi.UInt32, mi.Bool]:
                """A sample of this source, where the random number falls into its share."""
                one = source.sample(q, here) if isinstance(source, Distant) else source.sample(o, q, here)
                return one.as_tuple()

            def same(
                o: mi.Point3f, q: mi.Point2f, *was: object
            ) -> tuple[mi.Vector3f, mi.Float, mi.Color3f, mi.Float, mi.UInt32, mi.Bool]:
                """What was drawn before, as it is."""
                return was  # type: ignore[return-value]

            state = (mi.Point3f(origin), inner, *found.as_tuple())
            found = LightSample(*dr.if_stmt(state, here, other, same, label="light"))
            found.density *= dr.select(here, share, 1.0)
            low = low + share
        return found

    @staticmethod
    def _within(x: mi.Float, low: mi.Float | float, share: mi.Float) -> mi.Float:
        """The place of a random number within its light's share of 0..1."""
        return dr.clip((x - low) / dr.maximum(share, 1e-9), 0.0, 0.99999994)
