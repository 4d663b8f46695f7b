"""Lamps: lights that stand at a place in the scene, in photometric units, and distant ones such as the sun.

Every lamp has a level in EV and a colour beside its nominal power. These two scale its light and nothing else, so that
they can be changed in a traced picture without tracing it again.
"""

from __future__ import annotations

import itertools
import math
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, model_validator

from usual_lamp.core.light.sun import SunTime

Array = NDArray[np.float64]
Level = Annotated[float, Field(ge=-12.0, le=12.0, description="EV: each step doubles the light")]
Kelvin = Annotated[float, Field(ge=1500.0, le=20000.0, description="colour temperature, K")]
MOST_LUX = 4000.0
"""Of the sun at noon, as it is put into a picture: surroundings are scaled to a table's light as well."""
HexColor = Annotated[str, Field(pattern=r"^#[0-9A-Fa-f]{6}$")]
Size = Annotated[float, Field(ge=1.0, le=1e5, description="mm")]
Place = tuple[
    Annotated[float, Field(ge=-1e6, le=1e6)],
    Annotated[float, Field(ge=-1e6, le=1e6)],
    Annotated[float, Field(ge=-1e6, le=1e6)],
]
WHITE = 6504.0
"""K, of D65: light of this colour is shown as white."""
SQUARE_MM = 1e-6
"""m² in a mm²."""


class BaseLamp(BaseModel):
    """What all lamps have: a name, a switch, a level and a colour."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    name: Annotated[str, Field(min_length=1, max_length=60)]
    on: bool = True
    level: Level = 0.0
    kelvin: Kelvin = WHITE
    filter: HexColor = Field("#FFFFFF", description="coloured glass in front of it, sRGB")
    seen: bool = Field(False, description="the camera sees it")
    mirrored: bool = Field(True, description="shiny surfaces show it")


class Standing(BaseLamp):
    """A lamp with a place, aimed at a point."""

    position: Place
    target: Place = (0.0, 0.0, 0.0)

    def frame(self) -> Array:
        """(3, 3): rows are side, up and the direction of the light, a right-handed base; the side is level."""
        way = np.subtract(self.target, self.position)
        length = float(np.linalg.norm(way))
        forward = way / length if length > 1e-9 else np.array([0.0, 0.0, -1.0])
        side = np.cross((0.0, 0.0, 1.0), forward)
        if np.linalg.norm(side) < 1e-6:
            side = np.array([1.0, 0.0, 0.0])
        side /= np.linalg.norm(side)
        return np.stack([side, np.cross(forward, side), forward])


class PanelLamp(Standing):
    """An evenly bright rectangle or ellipse that shines to one side."""

    kind: Literal["panel"] = "panel"
    width: Size = 400.0
    height: Size = 600.0
    round: bool = False
    luminance: Annotated[float, Field(ge=0.0, le=1e9, description="cd/m²")] = 4000.0

    @property
    def area(self) -> float:
        """Return the bright area, mm²."""
        return self.width * self.height * (math.pi / 4 if self.round else 1.0)


class TubeLamp(Standing):
    """An evenly bright cylinder without its ends; it lies level, across its aim."""

    kind: Literal["tube"] = "tube"
    length: Size = 600.0
    diameter: Size = 26.0
    luminance: Annotated[float, Field(ge=0.0, le=1e9, description="cd/m²")] = 9000.0


class SpotLamp(Standing):
    """A small disc that shines with one intensity up to its inner angle, and with none from its outer angle on."""

    kind: Literal["spot"] = "spot"
    diameter: Size = 60.0
    inner: Annotated[float, Field(ge=0.0, le=85.0, description="degrees from the axis")] = 12.0
    outer: Annotated[float, Field(ge=0.5, le=85.0, description="degrees from the axis")] = 20.0
    candela: Annotated[float, Field(ge=0.0, le=1e9)] = 800.0


class PointLamp(Standing):
    """A small ball that shines evenly to all sides."""

    kind: Literal["point"] = "point"
    diameter: Size = 40.0
    lumen: Annotated[float, Field(ge=0.0, le=1e9)] = 1500.0


class FieldLamp(Standing):
    """Many small bulbs in rows, such as light points out of focus behind the product."""

    kind: Literal["field"] = "field"
    columns: Annotated[int, Field(ge=1, le=20)] = 8
    rows: Annotated[int, Field(ge=1, le=10)] = 5
    spacing: Size = 120.0
    jitter: Annotated[float, Field(ge=0.0, le=1.0, description="of the spacing, to all sides")] = 0.4
    diameter: Size = 12.0
    lumen: Annotated[float, Field(ge=0.0, le=1e9, description="of each bulb")] = 40.0
    colors: Annotated[tuple[HexColor, ...], Field(min_length=1, max_length=4)] = ("#FFC98A", "#FFE3BF", "#BFD8FF")
    """Of the bulbs, by turns."""
    seen: bool = True


MOST_CANDELA = 2400
"""Intensities in one table: it stands in the document, and goes to the page with it."""


class PhotometricLamp(Standing):
    """A luminaire by its intensity table (ANSI/IES LM-63, type C), put out by a ball."""

    kind: Literal["photometric"] = "photometric"
    diameter: Size = 60.0
    vertical: Annotated[tuple[float, ...], Field(min_length=2, max_length=181, description="degrees from the aim")]
    horizontal: Annotated[tuple[float, ...], Field(min_length=1, max_length=73, description="degrees round the aim")]
    candela: Annotated[tuple[Annotated[float, Field(ge=0.0, le=1e9)], ...], Field(max_length=MOST_CANDELA)]
    """By horizontal, then by vertical angle."""

    @model_validator(mode="after")
    def _is_whole(self) -> PhotometricLamp:
        if len(self.candela) != len(self.vertical) * len(self.horizontal):
            raise ValueError("the table of intensities has gaps")
        for angles, most in ((self.vertical, 180.0), (self.horizontal, 360.0)):
            if any(b <= a for a, b in itertools.pairwise(angles)) or angles[0] < 0 or angles[-1] > most:
                raise ValueError("the angles of the table must grow")
        return self

    def intensity(self, directions: Array) -> Array:
        """cd towards unit directions (..., 3) in its frame (side, up, aim), linear between the angles of its table."""
        down = np.degrees(np.arccos(np.clip(directions[..., 2], -1.0, 1.0)))
        around = np.degrees(np.arctan2(directions[..., 1], directions[..., 0])) % 360.0
        given = np.array(self.candela).reshape(len(self.horizontal), len(self.vertical))
        columns, angles = whole_turn(np.array(self.horizontal), given)
        row, a = _between(np.array(self.vertical), down)
        column, b = _between(angles, around)
        low = columns[column, row] * (1 - a) + columns[column, row + 1] * a
        high = columns[column + 1, row] * (1 - a) + columns[column + 1, row + 1] * a
        covered = (down >= self.vertical[0] - 1e-6) & (down <= self.vertical[-1] + 1e-6)
        return np.asarray(np.where(covered, low * (1 - b) + high * b, 0.0))


def whole_turn(horizontal: Array, given: Array) -> tuple[Array, Array]:
    """The columns of an intensity table over the whole turn, and their angles: LM-63 leaves out what symmetry gives."""
    last = horizontal[-1]
    if len(horizontal) == 1:
        return np.repeat(given, 2, axis=0), np.array([0.0, 360.0])
    if last <= 90.0:
        given, horizontal = np.r_[given, given[-2::-1]], np.r_[horizontal, 180.0 - horizontal[-2::-1]]
    if last <= 180.0:
        given, horizontal = np.r_[given, given[-2::-1]], np.r_[horizontal, 360.0 - horizontal[-2::-1]]
    if horizontal[-1] < 360.0:
        given, horizontal = np.r_[given, given[:1]], np.r_[horizontal, 360.0]
    return given, horizontal


def _between(angles: Array, at: Array) -> tuple[NDArray[np.intp], Array]:
    """Number of the angle before each, and the share of the way to the next."""
    index = np.clip(np.searchsorted(angles, at, side="right") - 1, 0, len(angles) - 2)
    return index, np.clip((at - angles[index]) / (angles[index + 1] - angles[index]), 0.0, 1.0)


REFLECTANCE = {"white": 0.85, "grey": 0.18, "black": 0.015, "mirror": 0.92}
"""Of card and cloth (common practice, no published source); grey as a photographer's grey card."""


class Card(Standing):
    """A flat card that lights nothing by itself: it sends light back, keeps it off, and is mirrored."""

    kind: Literal["card"] = "card"
    width: Size = 400.0
    height: Size = 600.0
    surface: Literal["white", "grey", "black", "mirror"] = "white"


class DistantLamp(BaseLamp):
    """A round light far away, such as the sun: parallel but for its angular size."""

    kind: Literal["distant"] = "distant"
    azimuth: Annotated[
        float, Field(ge=-360.0, le=360.0, description="degrees from the front (-y) towards the right (+x)")
    ] = 40.0
    elevation: Annotated[float, Field(ge=-90.0, le=90.0, description="degrees above the floor")] = 40.0
    angle: Annotated[float, Field(ge=0.1, le=90.0, description="angular diameter, degrees")] = 0.53
    lux: Annotated[float, Field(ge=0.0, le=1e9, description="on a surface that faces it")] = 4000.0
    sun: SunTime | None = Field(None, description="the moment and place by which it was put")

    def direction(self) -> Array:
        """Return the unit vector towards it."""
        azimuth, elevation = math.radians(self.azimuth), math.radians(self.elevation)
        across = math.cos(elevation)
        return np.array([across * math.sin(azimuth), -across * math.cos(azimuth), math.sin(elevation)])

    @property
    def luminance(self) -> float:
        """cd/m²: the illuminance of a round light over its projected solid angle, E = π L sin²(radius)."""
        return self.lux / (math.pi * math.sin(math.radians(self.angle / 2)) ** 2)


MOST_DISTANT = 4
"""Lights far away in one lighting: each is looked at wherever a path leaves the scene."""
Lamp = Annotated[
    PanelLamp | TubeLamp | SpotLamp | PointLamp | FieldLamp | PhotometricLamp | DistantLamp | Card,
    Field(discriminator="kind"),
]


def spot_luminance(lamp: SpotLamp) -> float:
    """cd/m² of the disc seen along its axis: intensity over area."""
    return lamp.candela / (math.pi / 4 * lamp.diameter**2 * SQUARE_MM)


def ball_luminance(lamp: PointLamp | FieldLamp) -> float:
    """cd/m² of an even ball: Φ = 4 π I, and I = L π r²."""
    return lamp.lumen / (4 * math.pi) / (math.pi / 4 * lamp.diameter**2 * SQUARE_MM)


def beam(cosine: Array, inner: float, outer: float) -> Array:
    """Share of a spot's intensity at a cosine from its axis; a smooth cubic between its angles (degrees)."""
    low, high = math.cos(math.radians(max(outer, inner + 0.01))), math.cos(math.radians(inner))
    t = np.clip((cosine - low) / (high - low), 0.0, 1.0)
    return np.asarray(t * t * (3.0 - 2.0 * t))
