"""Where lamps stand: new ones and starter sets sized to the product, and lamps moved for a highlight or a shadow.

Directions are those of the view: right, up and towards the viewer. Lengths are in radii of the product.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import timedelta
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.light.lamp_shapes import illuminance
from usual_lamp.core.light.lamps import (
    MOST_LUX,
    Card,
    DistantLamp,
    FieldLamp,
    Lamp,
    PanelLamp,
    PhotometricLamp,
    Place,
    PointLamp,
    SpotLamp,
    TubeLamp,
    ball_luminance,
)
from usual_lamp.core.light.photometry import Photometry
from usual_lamp.core.light.sun import LOWEST, SunTime, beam, sun_position, warmth

Array = NDArray[np.float64]
LampKind = Literal["panel", "round panel", "tube", "spot", "point", "distant", "field", "card"]
SetName = Literal["key, fill and rim", "two strips", "soft top", "edges"]
LAMP_KINDS: tuple[LampKind, ...] = get_args(LampKind)
SET_NAMES: tuple[SetName, ...] = get_args(SetName)
BULB = 9000.0
"""cd/m² of the bulbs in a field of lights."""
TABLE = 1800.0
"""lx that a photometric lamp gives in the middle of the product at first."""
LABELS: dict[LampKind, str] = {
    "panel": "Panel",
    "round panel": "Round panel",
    "tube": "Tube",
    "spot": "Spot",
    "point": "Point",
    "distant": "Sun",
    "field": "Field of lights",
    "card": "Card",
}


class CannotPlace(ValueError):
    """No place for the lamp does what is asked; the message says why."""


@dataclass(frozen=True)
class Stand:
    """The product and how it is looked at: middle and radius in mm, unit vectors of the view, the eye in mm."""

    center: Array
    radius: float
    floor: float
    """z, mm."""
    eye: Array

    def place(self, right: float, up: float, nearer: float) -> Place:
        """A place in radii from the middle: to the right, above, and towards the viewer; level with the floor."""
        way = self.eye - self.center
        way = np.array([way[0], way[1], 0.0])
        length = float(np.linalg.norm(way))
        nearer_by = way / length if length > 1e-6 else np.array([0.0, -1.0, 0.0])
        # To the right of who looks along -nearer.
        right_by = np.cross([0.0, 0.0, 1.0], nearer_by)
        at = self.center + self.radius * (right * right_by + nearer * nearer_by + up * np.array([0.0, 0.0, 1.0]))
        at[2] = max(at[2], self.floor + 0.1 * self.radius)
        return _rounded(at)

    def azimuth(self, degrees: float) -> float:
        """Degrees from the front (-y), of a direction that many degrees to the right of the viewer."""
        way = self.eye - self.center
        found = math.degrees(math.atan2(way[0], -way[1])) + degrees
        return round((found + 180.0) % 360.0 - 180.0, 1)


def _rounded(place: Array) -> Place:
    x, y, z = (round(float(v), 1) for v in place)
    return x, y, z


def new_lamp(kind: LampKind, stand: Stand, name: str) -> Lamp:
    """A lamp of a kind above the product on the viewer's right, sized to it, as bright as a key light."""
    if kind == "distant":
        return DistantLamp(name=name, azimuth=stand.azimuth(40.0), elevation=40.0, angle=2.0, lux=2000.0)
    target, near = _rounded(stand.center), stand.place(1.6, 1.9, 1.8)
    common = {"name": name, "position": near, "target": target}
    radius = stand.radius
    if kind == "tube":
        return _bright(TubeLamp(**common, length=_mm(2.0 * radius), diameter=_mm(0.12 * radius)), stand, 1500.0)
    if kind == "point":
        return _bright(PointLamp(**common, diameter=_mm(0.15 * radius)), stand, 1500.0)
    if kind == "spot":
        half = math.degrees(math.atan(1.3 / 3.1))
        beam = {"inner": float(round(half)), "outer": float(round(half * 1.4))}
        return _bright(SpotLamp(**common, diameter=_mm(0.15 * radius), **beam), stand, 1800.0)
    if kind == "field":
        # Far enough behind to be out of focus (common practice, no published source).
        behind = FieldLamp(
            name=name,
            position=stand.place(0.0, 0.7, -4.0),
            target=target,
            spacing=_mm(0.6 * radius),
            diameter=_mm(0.05 * radius),
        )
        return behind.model_copy(update={"lumen": _two_digits(behind.lumen * BULB / ball_luminance(behind))})
    if kind == "card":
        beside = stand.place(-1.7, 0.5, 0.9)
        return Card(name=name, position=beside, target=target, width=_mm(1.1 * radius), height=_mm(1.5 * radius))
    size = _mm(1.2 * radius)
    return _bright(PanelLamp(**common, width=size, height=size, round=kind == "round panel"), stand, 1800.0)


def _mm(length: float) -> float:
    """A length that a lamp may have, in whole mm."""
    return float(np.clip(round(length), 1.0, 1e5))


def _bright(lamp: PanelLamp | TubeLamp | SpotLamp | PointLamp, stand: Stand, lux: float) -> Lamp:
    """The lamp at the power with which it gives that illuminance in the middle of the product."""
    now = float(illuminance(lamp, stand.center[None])[0])
    field = {PanelLamp: "luminance", TubeLamp: "luminance", SpotLamp: "candela", PointLamp: "lumen"}[type(lamp)]
    return lamp.model_copy(update={field: _two_digits(getattr(lamp, field) * lux / max(now, 1e-9))})


def _two_digits(power: float) -> float:
    return float(round(power, 1 - math.floor(math.log10(max(power, 1e-9)))))


def starter_set(name: SetName, stand: Stand) -> tuple[dict[str, Lamp], float]:
    """Lamps by id, and the brightness of the surroundings that goes with them."""
    target = _rounded(stand.center)

    def panel(label: str, at: tuple[float, float, float], wide: float, high: float, lux: float, kelvin: float) -> Lamp:
        """A panel at a place in radii, of that size in radii, that gives `lux` in the middle of the product."""
        x, y, z = stand.place(*at)
        # Its lower edge stays clear of the floor, or it would cut into it.
        lamp = PanelLamp(
            name=label,
            position=(x, y, max(z, round(stand.floor + (high / 2 + 0.25) * stand.radius, 1))),
            target=target,
            width=_mm(wide * stand.radius),
            height=_mm(high * stand.radius),
            kelvin=kelvin,
        )
        return _bright(lamp, stand, lux)

    # Large key from the side above, long rim from behind left, soft top, fill at an eighth: three faces of a box are
    # lit apart from each other, which shows form (common practice, no published source).
    if name == "key, fill and rim":
        return {
            "key": panel("Key", (2.5, 2.2, 0.9), 1.9, 1.4, 2000.0, 5600.0),
            "rim": panel("Rim", (-2.0, 1.8, -2.0), 3.0, 0.5, 1800.0, 6504.0),
            "fill": panel("Fill", (-2.6, 0.7, 1.6), 1.2, 2.0, 240.0, 6504.0),
            "top": panel("Top", (0.0, 3.2, 0.2), 2.4, 1.6, 700.0, 6504.0),
        }, 0.3
    if name == "two strips":
        return {
            "left": panel("Left strip", (-2.6, 0.9, 0.9), 0.45, 3.4, 1500.0, 6000.0),
            "right": panel("Right strip", (2.6, 0.9, 0.7), 0.45, 3.4, 1900.0, 6000.0),
            "top": panel("Top", (0.0, 3.0, -0.4), 2.6, 1.2, 900.0, 6504.0),
        }, 0.25
    if name == "soft top":
        return {
            "top": panel("Top", (0.0, 2.6, 0.3), 5.0, 4.0, 2300.0, 6504.0),
            "front": panel("Front card", (0.0, 0.4, 3.6), 2.6, 1.2, 260.0, 6504.0),
        }, 0.35
    return {
        "left": panel("Left edge", (-2.2, 1.0, -1.6), 0.5, 3.2, 1800.0, 7000.0),
        "right": panel("Right edge", (2.2, 1.0, -1.6), 0.5, 3.2, 1800.0, 5200.0),
        "top": panel("Top edge", (0.0, 2.8, -1.0), 2.8, 0.4, 900.0, 6504.0),
    }, 0.08


def highlight_at(lamp: Lamp, stand: Stand, point: Array, normal: Array) -> Lamp:
    """The lamp where a mirror at the point (mm, unit normal) would show it to the eye. Its distance stays.

    Raises CannotPlace.
    """
    view = stand.eye - point
    view /= np.linalg.norm(view)
    if view @ normal <= 0.02:
        raise CannotPlace("This face is seen edge-on from here. Select a spot that faces the view.")
    return _along(lamp, stand, point, 2.0 * (view @ normal) * normal - view, "highlight")


def shadow_at(lamp: Lamp, stand: Stand, point: Array, top: Array) -> Lamp:
    """The lamp where `top` (mm) throws its shadow on the point. Its distance stays. Raises CannotPlace."""
    way = top - point
    length = float(np.linalg.norm(way))
    if length < 1e-3 * stand.radius or way[2] <= 0:
        raise CannotPlace("A shadow falls away from the light: select a spot beside the product, below its top.")
    return _along(lamp, stand, point, way / length, "shadow")


def _along(lamp: Lamp, stand: Stand, point: Array, direction: Array, what: str) -> Lamp:
    if direction[2] < 0 and point[2] + direction[2] * stand.radius < stand.floor:
        raise CannotPlace(f"For that {what} the lamp would have to stand below the floor. Select another spot.")
    if isinstance(lamp, DistantLamp):
        azimuth = math.degrees(math.atan2(direction[0], -direction[1]))
        elevation = math.degrees(math.asin(float(np.clip(direction[2], -1.0, 1.0))))
        return lamp.model_copy(update={"azimuth": round(azimuth, 1), "elevation": round(elevation, 1)})
    distance = max(float(np.linalg.norm(np.subtract(lamp.position, stand.center))), 1.2 * stand.radius)
    at = point + direction * distance
    if at[2] < stand.floor:
        at = point + direction * distance * max(0.05, (point[2] - stand.floor) / max(point[2] - at[2], 1e-6))
    return lamp.model_copy(update={"position": _rounded(at), "target": _rounded(point)})


def put_sun(lamp: DistantLamp, when: SunTime) -> DistantLamp:
    """The lamp as the sun at a moment and place: direction, colour, and its light relative to that of a high sun.

    Raises CannotPlace when it is below the horizon, or the day does not exist.
    """
    try:
        at = sun_position(when.moment(), when.latitude, when.longitude)
    except ValueError as error:
        raise CannotPlace(f"There is no {when.date}: that month is shorter.") from error
    if at.elevation <= LOWEST:
        raise CannotPlace(
            f"The sun is {abs(at.elevation):.0f}° below the horizon then"
            + (", all day long in this season. " if _is_polar_night(when) else ". ")
            + "Select another time, date or place."
        )
    # North lies behind the product, unless it is said to lie elsewhere; azimuths of lamps count from the front.
    azimuth = (180.0 - at.azimuth - when.north + 180.0) % 360.0 - 180.0
    lux = MOST_LUX * beam(at.elevation, when.turbidity) / beam(90.0, 2.0)
    change = {"azimuth": round(azimuth, 2), "elevation": round(at.elevation, 2), "angle": max(lamp.angle, 0.53)}
    return lamp.model_copy(
        update=change | {"kelvin": warmth(at.elevation, when.turbidity), "lux": round(lux, 1), "sun": when}
    )


def _is_polar_night(when: SunTime) -> bool:
    """Whether the sun stays down the whole day."""
    hours = (when.moment() + timedelta(hours=hour) for hour in range(-12, 13))
    return max(sun_position(hour, when.latitude, when.longitude).elevation for hour in hours) <= LOWEST


def photometric_lamp(found: Photometry, stand: Stand) -> PhotometricLamp:
    """A luminaire by its file, above the product and aimed at it. Its level brings its light down to that of a table,
    for it stands nearer than it would hang."""
    lamp = PhotometricLamp(
        name=found.label,
        position=stand.place(0.6, 2.8, 0.6),
        target=_rounded(stand.center),
        diameter=_mm(0.2 * stand.radius),
        vertical=tuple(found.vertical.tolist()),
        horizontal=tuple(found.horizontal.tolist()),
        candela=tuple(np.round(found.candela, 2).ravel().tolist()),
    )
    given = float(illuminance(lamp, stand.center[None])[0])
    level = math.log2(TABLE / given) if given > 0 else 0.0
    return lamp.model_copy(update={"level": round(float(np.clip(level, -12.0, 12.0)), 1)})
