"""Everything that is edited in a review, as one immutable document. Collections are maps by id."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray
from pydantic import AfterValidator, Field, model_validator

from usual_lamp.core.appearance import Appearance, hex_to_linear
from usual_lamp.core.assembly.laying import LayingKind
from usual_lamp.core.light import Lamp, Level, daylight, known_surroundings
from usual_lamp.core.light.lamps import MOST_DISTANT, Card, DistantLamp
from usual_lamp.core.light.surroundings import MapWish
from usual_lamp.core.scene.decal import MOST_DECALS, Decal
from usual_lamp.core.scene.frozen import Frozen, HexColor, Length, Number, Share, Triple
from usual_lamp.core.scene.shot import Shot

PartState = Literal["hidden", "suppressed"]
MOST_LAMPS = 64
MOST_BRIGHTNESS = 64.0
"""Of the surroundings."""
FIRST_LIGHTING = "lighting-1"
SurfaceKind = Literal["plane", "cylinder", "cone", "sphere", "torus", "free"]


def few_suns(lamps: dict[str, Lamp]) -> dict[str, Lamp]:
    """Raises ValueError for more lights far away than are traced."""
    if sum(lamp.kind == "distant" for lamp in lamps.values()) > MOST_DISTANT:
        raise ValueError(f"a lighting holds at most {MOST_DISTANT} suns")
    return lamps


def _invertible(values: tuple[float, ...]) -> tuple[float, ...]:
    """Raises ValueError for a matrix that flattens. Mesh files may place a part stretched or mirrored."""
    if abs(np.linalg.det(np.array(values).reshape(3, 4)[:, :3])) < 1e-9:
        raise ValueError("must not flatten the part")
    return values


Affine = Annotated[tuple[Number, ...], Field(min_length=12, max_length=12), AfterValidator(_invertible)]
"""3 x 4 row by row, column-vector convention, mm."""


class Placement(Frozen):
    """Where something was put: turned about a pivot, then shifted. In the frame of what it lies in, z up."""

    shift: Triple = (0.0, 0.0, 0.0)
    """mm."""
    turn: Triple = (0.0, 0.0, 0.0)
    """Degrees about x, then y, then z; the axes stay put."""
    pivot: Triple = (0.0, 0.0, 0.0)
    """mm."""

    @property
    def matrix(self) -> NDArray[np.float64]:
        """4 x 4, column-vector convention."""
        made = np.eye(4)
        made[:3, :3] = scipy.spatial.transform.Rotation.from_euler("xyz", self.turn, degrees=True).as_matrix()
        pivot = np.array(self.pivot)
        made[:3, 3] = pivot - made[:3, :3] @ pivot + np.array(self.shift)
        return made


class Piece(Frozen):
    """A piece of context made in place: a wall, a table top, a plinth or a box. Sizes in mm."""

    kind: Literal["wall", "table top", "plinth", "box"]
    size: tuple[Length, Length, Length]
    """Along x, y and z."""


class ModelUse(Frozen):
    """A model in the review, the revision of it that is shown, and where it was put."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    revision: str
    placement: Placement = Placement()
    piece: Piece | None = None


class Rule(Frozen):
    """An appearance for all parts that pass a filter, or for their faces of one kind."""

    id: Annotated[str, Field(min_length=1, max_length=32)]
    filter: Annotated[str, Field(min_length=1, max_length=500)]
    appearance: str
    surface: SurfaceKind | None = None
    on: bool = True


def owner_of(key: str) -> str:
    """The uid or model id that an assignment's key hangs on."""
    return key.split("#", 1)[0].removeprefix("=")


class Laying(Frozen):
    """How pictures in mm lie on some parts, in one frame for all of them, see `assembly.laying`."""

    kind: LayingKind
    parts: dict[str, Affine] = Field(min_length=1, max_length=5000, description="uid to part frame to laying's frame")
    radius: Annotated[float, Field(gt=0, le=1e5, description="of a cylinder, mm")] = 10.0


class Look(Frozen):
    """A named set of assignments and rules."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    assignments: dict[str, str] = Field(default={}, description="to appearance id, by the keys of `levels`")
    rules: tuple[Rule, ...] = Field(default=(), description="the higher wins")
    layings: dict[str, Laying] = Field(default={}, description="by id; a part is in one at most")


class Backdrop(Frozen):
    """What lies behind the product; `bottom` is also the colour of the floor."""

    kind: Literal["plain", "gradient", "radial", "environment", "photo"] = "gradient"
    bottom: HexColor = "#F1EBE2"
    top: HexColor = Field("#DFD6CA", description="of a radial gradient: the colour at the border")
    transparent: bool = Field(
        False, description="stills show shadow and reflection on nothing; plain in the colour below"
    )
    level: Level = Field(0.0, description="EV, of surroundings or a photo as they are seen")
    blur: Annotated[float, Field(ge=0.0, le=1.0, description="of the surroundings as they are seen")] = 0.0
    picture: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] | None = Field(
        None, description="the photo, by content hash"
    )
    fit: Literal["fill", "fit"] = "fill"
    scale: Annotated[float, Field(ge=0.05, le=20.0, description="of the photo")] = 1.0
    shift: tuple[Share, Share] = Field((0.0, 0.0), description="of the photo, to the right and down, as picture shares")
    grounded: bool = Field(False, description="the lower part of the surroundings lies on the floor")
    viewpoint: Annotated[float, Field(ge=1.0, le=1e6, description="mm above the floor from which they were taken")] = (
        1600.0
    )
    reach: Annotated[
        float, Field(ge=10.0, le=1e7, description="mm round the viewpoint up to which there is ground")
    ] = 12000.0
    slide: tuple[Number, Number] = Field((0.0, 0.0), description="mm by which the place is moved under the product")


class FloorTilt(Frozen):
    """A model that the floor is tilted with, and how that stood turned when the floor was level."""

    model: str
    turn: Triple
    """Degrees, as in its placement."""


class Floor(Frozen):
    """What the floor is; a plain one takes the backdrop's colour, and shadow and reflection."""

    kind: Literal["plain", "appearance", "sweep"] = "plain"
    appearance: str | None = Field(
        None, description="what it wears, by id in the review or on the shelf; null: a sweep of paper in its colour"
    )
    turn: Annotated[
        float, Field(ge=-180.0, le=180.0, description="degrees by which a sweep is turned to the viewer")
    ] = 0.0

    reflection: Annotated[float, Field(ge=0.0, le=1.0, description="strength, 1: as a polished one")] = 0.75
    roughness: Annotated[float, Field(ge=0.0, le=1.0)] = 0.2
    shadow: Annotated[float, Field(ge=0.0, le=1.0, description="1: as it is; 0: none")] = 1.0
    lift: Annotated[float, Field(ge=-1e5, le=1e5, description="mm above the lowest point shown")] = 0.0
    tilts: FloorTilt | None = Field(None, description="null: the floor stays level, however the models are turned")


class Lighting(Frozen):
    """What lights the product and what lies behind it."""

    name: Annotated[str, Field(min_length=1, max_length=60)] = "Lighting 1"
    place: Annotated[int, Field(ge=0, le=9999, description="in the list of lightings; equal ones by age")] = 0
    surroundings: Annotated[str, AfterValidator(known_surroundings)] = "panels"
    on: bool = Field(True, description="whether the surroundings give light")
    brightness: Annotated[
        float, Field(ge=0.0, le=MOST_BRIGHTNESS, description="0: only lamps and glowing parts give light")
    ] = 1.0
    turn: Annotated[float, Field(ge=-180.0, le=180.0, description="degrees about the vertical")] = 0.0
    contrast: Annotated[float, Field(ge=0.2, le=3.0, description="of the surroundings; 1: as they are")] = 1.0
    saturation: Annotated[float, Field(ge=0.0, le=3.0, description="of the surroundings; 1: as they are")] = 1.0
    tint: HexColor = "#FFFFFF"
    """Of the surroundings."""
    tilt: Annotated[float, Field(ge=-90.0, le=90.0, description="degrees; what was overhead comes to the front")] = 0.0
    below: HexColor | None = Field(
        None, description="colour of the ground beneath the surroundings; null: that of the floor"
    )
    lamps: Annotated[
        dict[Annotated[str, Field(min_length=1, max_length=32)], Lamp],
        Field(max_length=MOST_LAMPS),
        AfterValidator(few_suns),
    ] = {}
    glows: bool = Field(True, description="whether glowing parts give light")
    glow: Level = Field(0.0, description="EV, of all glowing parts")
    floor: bool = True
    floor_finish: Floor = Floor()
    backdrop: Backdrop = Backdrop()

    @property
    def sources(self) -> dict[str, Lamp]:
        """The lamps that give light: all but cards."""
        return {id: lamp for id, lamp in self.lamps.items() if not isinstance(lamp, Card)}

    @property
    def cards(self) -> list[Card]:
        """Cards that are there."""
        return [lamp for lamp in self.lamps.values() if isinstance(lamp, Card) and lamp.on]

    @property
    def is_grounded(self) -> bool:
        """Whether the lower part of the surroundings lies on the floor, which is level then."""
        return self.backdrop.grounded and self.backdrop.kind == "environment"

    @property
    def map_wish(self) -> MapWish:
        """The map of its surroundings: the sky that follows the sun takes the first sun there is, on or off."""
        name = self.surroundings
        if name == daylight.NAME:
            suns = [lamp for lamp in self.lamps.values() if isinstance(lamp, DistantLamp)]
            azimuth, elevation, turbidity = daylight.FIRST_SUN
            if suns:
                azimuth, elevation = suns[0].azimuth, suns[0].elevation
                turbidity = suns[0].sun.turbidity if suns[0].sun else turbidity
            # The map is turned as a whole: its sun stays where the lamp is.
            name = daylight.name_of(azimuth - self.turn, elevation, turbidity)
        return MapWish(name, self.contrast, self.saturation, hex_to_linear(self.tint), self.tilt)

    @property
    def ground(self) -> tuple[float, float, float] | None:
        """Of a transparent picture, the linear colour that its shadow is right over; None for any other."""
        return hex_to_linear(self.backdrop.bottom) if self.backdrop.transparent else None


class Scene(Frozen):
    """Everything that is edited in a review, as one document."""

    models: dict[str, ModelUse]
    moves: dict[str, Placement] = Field(
        default={}, description="parts and sub-assemblies put elsewhere for the picture, by uid, in the model's frame"
    )
    states: dict[str, PartState] = Field(default={}, description="parts that are not shown, by uid")
    imported: dict[str, str | None] = Field(
        default={}, description="what stands in for a colour from CAD, by that colour's id; null: nothing of it is left"
    )
    stripped: frozenset[str] = Field(
        default=frozenset(), description="parts and sub-assemblies whose colours from CAD are not heeded, by uid"
    )
    appearances: dict[str, Appearance] = {}
    looks: dict[str, Look] = {"standard": Look(name="Standard")}
    look: str = Field("standard", description="the look that is shown")
    lightings: dict[str, Lighting] = {FIRST_LIGHTING: Lighting()}
    lit_by: str = Field(FIRST_LIGHTING, description="the lighting that is shown")
    panoramas: dict[Annotated[str, Field(min_length=64, max_length=64)], Annotated[str, Field(max_length=120)]] = Field(
        default={}, description="imported ones by content hash, with their names"
    )
    decals: Annotated[dict[str, Decal], Field(max_length=MOST_DECALS)] = {}
    """By id; the later lie over the earlier."""
    filters: dict[str, str] = Field(default={}, description="filters of the parts schedule that were kept, by name")
    shots: dict[str, Shot]
    rounding: Annotated[
        float, Field(ge=0.0, le=3.0, description="mm to which sharp edges are rounded for the light; 0: not at all")
    ] = 0.0
    silenced: frozenset[str] = Field(
        frozenset(), description="kinds of checks before a still that are not to be told in this review"
    )

    @model_validator(mode="before")
    @classmethod
    def _one_lighting(cls, found: Any) -> Any:
        """Documents written before a review could have several lightings hold one of them."""
        if isinstance(found, dict) and "lighting" in found:
            found = {**found, "lightings": {FIRST_LIGHTING: found["lighting"]}, "lit_by": FIRST_LIGHTING}
            del found["lighting"]
        return found

    @property
    def lighting(self) -> Lighting:
        """The lighting that is shown."""
        return self.lightings[self.lit_by]

    def ordered_shots(self) -> list[str]:
        """Ids of the shots as they are listed."""
        return sorted(self.shots, key=lambda id: self.shots[id].place)

    def lighting_of(self, shot: Shot) -> Lighting:
        """What lights a shot: its own lighting, or the one that is shown."""
        return self.lightings.get(shot.lighting or self.lit_by, self.lighting)
