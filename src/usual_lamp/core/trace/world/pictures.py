"""Pictures on parts: looked up while the surface is being worked out, by position in the part's frame, in mm, or, as
textures of an appearance, by the coordinates that its mesh carries.

All pictures lie one after another in one array, and each use of one is a row of numbers, so that any number of them
runs in the same kernel. A placement says which rows belong to a shape, in the order in which they lie on it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance.texture import Texture
from usual_lamp.core.camera import Camera
from usual_lamp.core.scene.picture_on_part import PictureOnPart, Target
from usual_lamp.core.trace.engine import dr, mi, settled
from usual_lamp.core.trace.surface.table import Four
from usual_lamp.core.trace.world.atlas import LEVELS, Atlas
from usual_lamp.core.trace.world.placements import PlacedShapes
from usual_lamp.core.trace.world.wrapped import along, laid_flat, vector

Use = PictureOnPart | Texture
ROW = 9
SLOPE, SIDE, BALL, WRAP = 5, 6, 7, 8
"""Of a row: the directions of a wrapped picture, each with minus its middle along it; middle and squared radius of what
it can reach, in the part's frame; radius, sine and cosine of what it is wrapped round, see `scene.wrapping`; and the
number of the picture."""
REPEAT, FRONT_ONLY, BY_COORDINATES, BENEATH_COAT, MACHINED, PRINTED = 8, 16, 32, 64, 128, 256
FOIL, BY_COVERAGE, BY_VALUE = 512, 1024, 2048
"""Beside the target in a row's flags."""
AROUND = 4
"""Repeats on one turn of a turned part: a whole number, so that no seam shows; grooves are much longer than wide."""
END = 0.7
"""Cosine of the axis to the normal above which a face counts as an end."""
TARGETS: dict[Target, int] = {name: k for k, name in enumerate(get_args(Target))}


@dataclass
class Dress:
    """What pictures make of a hit."""

    color: mi.Color3f
    roughness: mi.Float
    opacity: mi.Float
    normal: mi.Vector3f
    coat_normal: mi.Vector3f | None = None
    """Where it may differ: some pictures shape what lies beneath the clear coat only."""
    printed: mi.Float | None = None
    """Share that print covers, where there is any."""
    foil: mi.Float | None = None
    """Share that foil covers, where there is any."""
    glow: mi.Color3f | None = None
    """cd/m² of pictures that glow, where there are any."""


@dataclass
class Coordinates:
    """Where pictures lie at a hit, in mm, with the gradients of both over the surface."""

    place: mi.Point3f
    to_u: mi.Vector3f
    to_v: mi.Vector3f


def key_of(use: Use) -> tuple[str, bool]:
    """Return what a texture needs of its picture: its name, and whether it is read as colours."""
    return use.picture, use.target in ("color", "emission")


class Pictures:
    """The pictures of one world."""

    def __init__(self, uses: list[Use], atlas: Atlas, placements: PlacedShapes) -> None:
        self.placements = placements
        self.targets = {use.target for use in uses}
        self.by_coordinates = any(isinstance(use, Texture) or use.by_coordinates for use in uses)
        self.beneath_coat = any(isinstance(use, Texture) and use.beneath_coat for use in uses)
        self.machined = any(isinstance(use, Texture) and use.mapping == "machined" for use in uses)
        self.prints = any(isinstance(use, PictureOnPart) and use.printed for use in uses)
        self.wraps = any(isinstance(use, PictureOnPart) and use.radius for use in uses)
        self.foils = any(isinstance(use, PictureOnPart) and use.foil for use in uses)
        self.atlas, self.texels = atlas, atlas.texels
        rows = np.stack([_row(use, atlas.pictures[key_of(use)].size, atlas.numbers[key_of(use)]) for use in uses])
        self.rows = settled(rows)
        self.starts = atlas.starts
        self.footprint = dr.opaque(mi.Float, 0.0), dr.opaque(mi.Float, 0.0)
        """mm across a pixel where a ray begins, and how much wider it is for each mm of its way."""

    def seen_by(self, camera: Camera, width: int, height: int) -> None:
        """Learn what a pixel of the picture covers, so that what is finer is read from a coarser level."""
        across = 2 * camera.half_tangents(width / height)[0] / width
        distance = float(np.linalg.norm(np.subtract(camera.target, camera.position)))
        start, grows = (across * distance, 0.0) if camera.parallel else (0.0, across)
        self.footprint = dr.opaque(mi.Float, start), dr.opaque(mi.Float, grows)

    def _level(
        self,
        si: mi.SurfaceInteraction3f,
        lies: Coordinates | None,
        own: mi.Bool,
        ways: list[mi.Vector3f],
        place: Four,
    ) -> mi.UInt32:
        """The level whose texels are a quarter to a half of a pixel: the rest is left to the samples of a pixel, which
        would be blurred twice otherwise."""
        wide = self.footprint[0] + self.footprint[1] * si.t
        per_mm = [dr.norm(way) for way in ways]
        if lies is not None:
            grown = [dr.norm(lies.to_u * way.x + lies.to_v * way.y) for way in ways]
            per_mm = [dr.select(own, of_coordinates, size) for of_coordinates, size in zip(grown, per_mm, strict=True)]
        texels = wide * dr.minimum(per_mm[0] * place[2], per_mm[1] * place[3])
        finest = dr.floor(dr.log2(dr.maximum(texels, 1.0))) - 1
        return mi.UInt32(dr.clip(dr.select(dr.isfinite(finest), finest, 0.0), 0, LEVELS - 1))

    def _four(self, row: mi.UInt32, k: int, active: mi.Bool) -> Four:
        return dr.gather(Four, self.rows, row * ROW + k, active)

    @property
    def on_walls(self) -> bool:
        """Whether some change what a clear wall lets through."""
        return self.prints or self.foils or not self.targets.isdisjoint({"opacity", "roughness"})

    def may_change(self, target: Target, shape: mi.ShapePtr, active: mi.Bool) -> mi.Bool:
        """Whether the shape wears pictures, where some in the scene have that target."""
        return self.placements.pictures(shape, active)[1] > 0 if target in self.targets else mi.Bool(False)

    def opacity(self, si: mi.SurfaceInteraction3f, opacity: mi.Float, active: mi.Bool) -> mi.Float:
        """Return the opacity at a hit after all pictures that cut out."""
        if "opacity" not in self.targets:
            return opacity
        blank = Dress(dr.zeros(mi.Color3f), mi.Float(0.0), opacity, si.n)
        return self.dress(si, blank, active).opacity

    def dress(self, si: mi.SurfaceInteraction3f, dress: Dress, active: mi.Bool) -> Dress:
        """The dress after all pictures of the shape that is hit have been laid on in order."""
        first, count = self.placements.pictures(si.shape, active)
        over = mi.Vector3f(dress.normal) if self.beneath_coat else None
        printed = mi.Float(0.0) if self.prints else None
        foil = mi.Float(0.0) if self.foils else None
        glow = mi.Color3f(0.0) if "emission" in self.targets else None
        dress = Dress(dress.color, dress.roughness, dress.opacity, mi.Vector3f(dress.normal), over, printed, foil, glow)
        wears = active & (count > 0)
        return dr.if_stmt(  # type: ignore[no-any-return]
            (dress,),
            wears,
            lambda dress: self._laid_on(si, first, count, dress, wears),
            lambda dress: dress,
            label="dress",
        )

    def _laid_on(
        self, si: mi.SurfaceInteraction3f, first: mi.UInt32, count: mi.UInt32, dress: Dress, active: mi.Bool
    ) -> Dress:
        """The dress after pictures number `first` and on, so many of them."""
        point = self.placements.to_part(si.shape, si.p, active)
        front = self.placements.turn_to_part(si.shape, mi.Vector3f(si.n), active)
        lies = _unrolled(si) if self.by_coordinates else None
        around = self._around(si, active) if self.machined else None

        def lay(k: mi.UInt32, worn: Dress) -> tuple[mi.UInt32, Dress]:
            """The number of the next picture, and the dress with one more laid on where it reaches."""
            row, has = first + k, active & (k < count)
            ball = self._four(row, BALL, has)
            near = has & (dr.squared_norm(mi.Vector3f(point) - vector(ball)) <= ball[3])
            worn = dr.if_stmt(
                (worn, row, near),
                near,
                lambda w, r, n: self._lay(si, lies, around, r, n, w, point, front),
                lambda w, r, n: w,
                label="picture",
            )
            return k + 1, worn

        # A loop in the kernel: however many lie on one part, it is the same kernel.
        _, dress = dr.while_loop((mi.UInt32(0), dress), lambda k, _: active & (k < count), lay, label="pictures")
        return dress

    def _lay(
        self,
        si: mi.SurfaceInteraction3f,
        lies: Coordinates | None,
        around: tuple[mi.Bool, Coordinates] | None,
        row: mi.UInt32,
        active: mi.Bool,
        dress: Dress,
        point: mi.Point3f,
        front: mi.Vector3f,
    ) -> Dress:
        across, down, out, place, how = (self._four(row, k, active) for k in range(5))
        number = mi.UInt32(self._four(row, WRAP, active)[3])
        flags = mi.UInt32(how[0])
        target, repeat, front_only = flags & 7, (flags & REPEAT) != 0, (flags & FRONT_ONLY) != 0
        own = (flags & BY_COORDINATES) != 0
        facing, ways = vector(out), [vector(across), vector(down)]
        if self.wraps:
            slope, side, around_it = (self._four(row, k, active) for k in (SLOPE, SIDE, WRAP))
            point, facing, ways = laid_flat(point, ways, (slope, side, out), around_it)
        if lies is not None:
            if around is not None:
                turned, ringed = around
                lies = dr.select(turned & ((flags & MACHINED) != 0), _wide(ringed, dr.norm(vector(across))), lies)
            point = dr.select(own, lies.place, point)
        level = self._level(si, lies, own, ways, place)
        u, v, away = along(across, point), along(down, point), along(out, point)
        within = (dr.abs(away) <= how[1]) & (~front_only | (dr.dot(facing, front) > 0))
        within &= repeat | ((u >= 0) & (u <= 1) & (v >= 0) & (v <= 1))
        texel = self._texel(place, u, v, repeat, active, number, level)
        share = dr.select(within, texel[3] * dr.select(target == TARGETS["bump"], 1.0, how[2]), 0.0)
        seen = mi.Color3f(texel[0], texel[1], texel[2])
        laid = lambda to, was, now: dr.select(target == TARGETS[to], now, was)  # noqa: E731
        color = laid("color", dress.color, dr.lerp(dress.color, seen, share))
        own_value = (flags & BY_VALUE) != 0
        printed, foil, glow = self._covered(dress, flags, target, seen, share, how[3])
        rough = dr.select(own_value, how[3], seen.x)
        roughness = laid("roughness", dress.roughness, dr.lerp(dress.roughness, rough, share))
        opacity = laid("opacity", dress.opacity, dress.opacity * dr.lerp(mi.Float(1.0), seen.x, share))
        normal, over = dress.normal, dress.coat_normal
        if self.targets & {"bump", "normal"}:
            # How the picture's place grows over the surface, in the world.
            grow = [self._grow(si, lies, own, way, active) for way in ways]
            by_coverage = (flags & BY_COVERAGE) != 0
            # Cut or raised edges have walls that lean by 45°, as a tool leaves them; else a step is as wide as a texel.
            wall = dr.select(by_coverage, 0.5 * dr.abs(how[2]), 0.0)
            du = dr.maximum(dr.rcp(place[2]), wall * dr.norm(vector(across)))
            dv = dr.maximum(dr.rcp(place[3]), wall * dr.norm(vector(down)))

            def read(a: mi.Float, b: mi.Float) -> mi.Float:
                """The height at shares of the picture, 0 to 1: its coverage, or its brightness."""
                found = self._texel(place, a, b, repeat, active, number, mi.UInt32(0))
                return dr.select(by_coverage, found[3], found[0])

            slope_u = how[2] * (read(u + du, v) - read(u - du, v)) / (2 * du)
            slope_v = how[2] * (read(u, v + dv) - read(u, v - dv)) / (2 * dv)
            is_map = target == TARGETS["normal"]
            steep = dr.maximum(2 * seen.z - 1, 0.05)
            # A height field's slope is per repeat, a normal map's per mm.
            slope_u = dr.select(is_map, -how[2] * (2 * seen.x - 1) / (steep * _length(grow[0])), slope_u)
            slope_v = dr.select(is_map, how[2] * (2 * seen.y - 1) / (steep * _length(grow[1])), slope_v)
            tilt = grow[0] * slope_u + grow[1] * slope_v
            shapes = within & (is_map | (target == TARGETS["bump"]))
            normal = dr.select(shapes, _bent(normal, tilt, si.n), normal)
            if over is not None:
                over = dr.select(shapes & ((flags & BENEATH_COAT) == 0), _bent(over, tilt, si.n), over)
        return Dress(color, roughness, opacity, normal, over, printed, foil, glow)

    @staticmethod
    def _covered(
        dress: Dress, flags: mi.UInt32, target: mi.UInt32, seen: mi.Color3f, share: mi.Float, value: mi.Float
    ) -> tuple[mi.Float | None, mi.Float | None, mi.Color3f | None]:
        """Print, foil and glow after one more picture: what lies on top hides what is beneath."""
        prints, foils = (flags & PRINTED) != 0, (flags & FOIL) != 0
        covers = (prints | foils) & (target == TARGETS["color"])
        printed, foil, glow = dress.printed, dress.foil, dress.glow
        if printed is not None:
            below = dr.select(covers, printed * (1 - share), printed)
            printed = dr.select(prints, 1 - (1 - printed) * (1 - share), below)
        if foil is not None:
            below = dr.select(covers, foil * (1 - share), foil)
            foil = dr.select(foils, 1 - (1 - foil) * (1 - share), below)
        if glow is not None:
            glow = dr.select(covers, glow * (1 - share), glow)
            glow += dr.select(target == TARGETS["emission"], seen * (value * share), 0.0)
        return printed, foil, glow

    def _grow(
        self,
        si: mi.SurfaceInteraction3f,
        lies: Coordinates | None,
        own: mi.Bool,
        axis: mi.Vector3f,
        active: mi.Bool,
    ) -> mi.Vector3f:
        """Gradient of one of the picture's coordinates, per mm in the world."""
        projected = self.placements.turn_to_world(si.shape, axis, active)
        if lies is None:
            return projected
        return dr.select(own, lies.to_u * axis.x + lies.to_v * axis.y, projected)

    def _around(self, si: mi.SurfaceInteraction3f, active: mi.Bool) -> tuple[mi.Bool, Coordinates]:
        """Whether the part is turned; and turns about its axis, with the height, or on ends the radius in mm."""
        turned, axis, arm = self.placements.turned(si, active)
        height = dr.dot(arm, axis)
        radial = arm - axis * height
        radius = _length(radial)
        outward = radial / radius
        side, front = mi.coordinate_system(axis)
        turns = dr.atan2(dr.dot(radial, front), dr.dot(radial, side)) * dr.inv_two_pi
        is_end = dr.abs(dr.dot(si.n, axis)) > END
        place = mi.Point3f(turns, dr.select(is_end, radius, height), 0.0)
        around = dr.cross(axis, outward) * (dr.inv_two_pi / radius)
        return turned, Coordinates(place, around, dr.select(is_end, outward, axis))

    def _texel(
        self,
        place: Four,
        u: mi.Float,
        v: mi.Float,
        repeat: mi.Bool,
        active: mi.Bool,
        number: mi.UInt32,
        level: mi.UInt32,
    ) -> Four:
        """Bilinear, in a level of the picture of that number; beyond the border a repeated picture goes on from its
        other side, a single one stays."""
        start = dr.gather(mi.UInt32, self.starts, number * LEVELS + level, active)
        step = mi.Int32(1) << mi.Int32(level)
        # Lanes without a picture read zeros, by which nothing may be divided.
        width, height = (dr.maximum((mi.Int32(place[k]) + step - 1) >> mi.Int32(level), 1) for k in (2, 3))
        x, y = (share * place[k] / mi.Float(step) - 0.5 for share, k in ((u, 2), (v, 3)))
        left, top = mi.Int32(dr.floor(x)), mi.Int32(dr.floor(y))
        a, b = x - mi.Float(left), y - mi.Float(top)

        def wrap(i: mi.Int32, size: mi.Int32) -> mi.UInt32:
            """A texel along a side of so many, from the other end or at the border."""
            # By numbers with a point, which divide many at once. They are exact, as both are less than 2^23.
            turns = dr.floor((mi.Float(i) + 0.5) / mi.Float(size))
            turned = i - mi.Int32(turns) * size
            return mi.UInt32(dr.select(repeat, turned, dr.clip(i, 0, size - 1)))

        def read(i: mi.Int32, j: mi.Int32) -> Four:
            """The texel in a column and a row."""
            at = start + wrap(j, height) * mi.UInt32(width) + wrap(i, width)
            return dr.gather(Four, self.texels, at, active)

        upper = read(left, top) * (1 - a) + read(left + 1, top) * a
        lower = read(left, top + 1) * (1 - a) + read(left + 1, top + 1) * a
        return upper * (1 - b) + lower * b


def _row(use: Use, size: tuple[int, int], number: int) -> NDArray[np.float64]:
    flags = TARGETS[use.target]
    if isinstance(use, Texture):
        axes: list[list[float]] = [*texture_axes(use), [0.0, 0.0, 1.0, 0.0]]
        flags += REPEAT + BY_COORDINATES + BENEATH_COAT * use.beneath_coat + MACHINED * (use.mapping == "machined")
        how, ways = [flags, 1e6, use.strength, 0.0], [0.0] * 8
        ball, wrap = [0.0, 0.0, 0.0, np.inf], [0.0, 0.0, 0.0, number]
    else:
        right, up, out = use.axes()
        center = np.asarray(use.center)
        u, v = right / use.width * (-1.0 if use.mirrored else 1.0), -up / use.height
        axes = [[*u, 0.5 - u @ center], [*v, 0.5 - v @ center], [*out, -out @ center]]
        flags += REPEAT * use.repeat + FRONT_ONLY * use.front_only + PRINTED * use.printed
        flags += FOIL * use.foil + BY_COVERAGE * use.by_coverage + BY_VALUE * (use.value is not None)
        how = [flags, use.depth, use.strength, use.value or 0.0]
        unturned = use.axes(turned=False)
        side, slope = unturned[:2] if use.along == "up" else unturned[1::-1]
        reach = np.hypot(np.hypot(use.width, use.height) / 2, use.depth)
        flags += BY_COORDINATES * use.by_coordinates
        how[0] = flags
        ball = [*center, np.inf if use.repeat or use.by_coordinates else reach**2]
        ways = [*slope, -slope @ center, *side, -side @ center]
        wrap = [use.radius, np.sin(np.radians(use.taper)), np.cos(np.radians(use.taper)), number]
    return np.concatenate([*axes, [0.0, 0.0, *size], how, ways, ball, wrap])


def texture_axes(texture: Texture) -> tuple[list[float], list[float]]:
    """From a surface's coordinates (u, v, 0, 1) to shares of the picture, from the left and from above: two rows.

    Where the texture lies at the coordinates' origin, there its lower left corner is.
    """
    angle = np.radians(texture.turn)
    right = np.array([np.cos(angle), np.sin(angle), 0.0]) / texture.width
    up = np.array([-np.sin(angle), np.cos(angle), 0.0]) / texture.height
    at = np.array([*texture.offset, 0.0])
    return [*right, -right @ at], [*-up, 1.0 + up @ at]


def _wide(ringed: Coordinates, per_mm: mi.Float) -> Coordinates:
    """With a turn as long as a whole number of repeats."""
    turn = AROUND / dr.maximum(per_mm, 1e-12)
    place = mi.Point3f(ringed.place.x * turn, ringed.place.y, 0.0)
    return Coordinates(place, ringed.to_u * turn, ringed.to_v)


def _unrolled(si: mi.SurfaceInteraction3f) -> Coordinates:
    """As the mesh carries them; the gradients are the basis dual to dp/du and dp/dv."""
    e, f, g = dr.dot(si.dp_du, si.dp_du), dr.dot(si.dp_du, si.dp_dv), dr.dot(si.dp_dv, si.dp_dv)
    scale = dr.rcp(dr.maximum(e * g - f * f, 1e-20))
    to_u, to_v = (si.dp_du * g - si.dp_dv * f) * scale, (si.dp_dv * e - si.dp_du * f) * scale
    return Coordinates(mi.Point3f(si.uv.x, si.uv.y, 0.0), to_u, to_v)


def _bent(normal: mi.Vector3f, tilt: mi.Vector3f, outward: mi.Vector3f) -> mi.Vector3f:
    side = dr.select(dr.dot(normal, outward) < 0, -1.0, 1.0)
    return dr.normalize(normal - side * (tilt - normal * dr.dot(normal, tilt)))


def _length(way: mi.Vector3f) -> mi.Float:
    return dr.maximum(dr.norm(way), 1e-12)
