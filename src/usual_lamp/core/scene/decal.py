"""Decals as a review keeps them: pictures on parts, in mm, with what they are made of."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from usual_lamp.core.decals import Drawing
from usual_lamp.core.scene.frozen import Frozen, Number, Triple
from usual_lamp.core.scene.picture_on_part import PictureOnPart, Wrapped

MOST_DECALS = 400
MOST_FACES, MOST_BESIDE = 200, 50
"""Faces that one is kept to, and other parts that it runs across."""

Stretch = Annotated[float, Field(ge=0.05, le=20.0)]


def _some_radius(radius: float) -> float:
    if abs(radius) < 0.01:
        raise ValueError("a cylinder's radius must be at least 0.01 mm")
    return radius


class Wrap(Frozen):
    """How a decal is wrapped round a cylinder or a cone, in true arc length."""

    radius: Annotated[
        float,
        Field(ge=-1e4, le=1e4, description="mm at the middle; negative inside of a bore"),
        AfterValidator(_some_radius),
    ]
    along: Wrapped = Field("up", description="the direction that lies along the axis, or along the slope of a cone")
    taper: Annotated[
        float, Field(ge=-85.0, le=85.0, description="degrees, half angle of a cone that widens towards `along`")
    ] = 0.0


class Sheet(Frozen):
    """How a decal follows its face: the face is unrolled into a flat sheet, and there it lies, in mm."""

    face: str = Field(description="the face's signature")
    at: tuple[Number, Number] = Field(description="of the decal's middle in the face's own coordinates")
    along: Annotated[float, Field(ge=-360.0, le=360.0, description="degrees, of its width before it is turned")] = 0.0
    flipped: bool = Field(False, description="the sheet is the surface as seen from behind")
    period: tuple[Number, Number] | None = Field(
        None, description="mm: where the face closes up, from a point of the sheet to where it comes again"
    )
    stretch: tuple[Stretch, Stretch] = Field(
        (1.0, 1.0), description="of the sheet to the surface at the decal's middle, along its width and its height"
    )


class DecalFinish(Frozen):
    """What a decal is made of."""

    kind: Literal["print", "foil", "glow", "dead_front", "engraved", "embossed", "etched"] = "print"
    roughness: Annotated[float, Field(ge=0.0, le=1.0)] | None = Field(
        None, description="its own; null: that of what it lies on"
    )
    light: Annotated[float, Field(ge=0.1, le=1e5, description="cd/m², of what is white in a glowing one")] = 300.0
    lit: bool = Field(True, description="a dead front shows; unlit, there is nothing to see of it")
    relief: Annotated[float, Field(ge=0.005, le=5.0, description="mm, how deep or high it is")] = 0.15
    filled: bool = Field(False, description="an engraved or embossed one has the picture's colours as well")


FOIL_ROUGHNESS, ETCHED_ROUGHNESS = 0.18, 0.5
"""Of foil and etching that have none of their own."""


class Cleared(Frozen):
    """How the plain background of a decal's picture was made clear, see `picture.clearing`."""

    source: Annotated[str, Field(pattern="^[0-9a-f]{64}$", description="the picture as it came, by content hash")]
    tolerance: Annotated[float, Field(ge=0.5, le=60.0, description="steps of L*a*b*")] = 10.0
    inside: bool = Field(False, description="also what is enclosed")


class Decal(Frozen):
    """A picture on a part, sized in mm, laid straight along the normal of a rectangle in the part's own frame."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    picture: Annotated[str, Field(pattern="^[0-9a-f]{64}$", description="content hash")]
    part: str = Field(description="uid; it waits where that part is gone")
    center: Triple = Field(description="mm, in the part's frame")
    right: Triple = Field(description="direction of the picture's width, in the part's frame")
    up: Triple = Field(description="direction of its height")
    width: Annotated[float, Field(ge=0.1, le=1e4, description="mm")]
    height: Annotated[float, Field(ge=0.1, le=1e4, description="mm")]
    turn: Annotated[float, Field(ge=-180.0, le=180.0, description="degrees, counter-clockwise")] = 0.0
    depth: Annotated[float, Field(ge=0.01, le=1e4, description="mm to both sides of the rectangle that it reaches")] = (
        3.0
    )
    opacity: Annotated[float, Field(ge=0.0, le=1.0)] = 1.0
    mirrored: bool = False
    on: bool = True
    finish: DecalFinish = DecalFinish()
    wrap: Wrap | None = Field(None, description="null: it lies flat")
    sheet: Sheet | None = Field(None, description="how it follows its face, in place of lying flat or wrapped")
    waits: bool = Field(False, description="its face is gone with a revision; it waits to be put on again")
    drawing: Drawing | None = Field(None, description="what the picture was drawn from; null: a file")
    cleared: Cleared | None = Field(None, description="null: with its background")
    locked: bool = Field(False, description="the pointer does not move it")
    look: str | None = Field(None, description="the look in which it is shown; null: in all")
    faces: tuple[str, ...] = Field(
        (), max_length=MOST_FACES, description="signatures of the faces of its part that it is kept to; none: all"
    )
    also: tuple[str, ...] = Field(
        (), max_length=MOST_BESIDE, description="uids of other parts that it lies on as well, where it reaches them"
    )

    @model_validator(mode="after")
    def _spans_a_plane(self) -> Decal:
        """Raises ValueError for directions that are parallel or have no length, and for one that lies in two ways."""
        self.plain.axes()
        if self.wrap is not None and self.sheet is not None:
            raise ValueError("A decal is wrapped round an axis or follows its face, not both.")
        return self

    @property
    def plain(self) -> PictureOnPart:
        """Where its picture lies, whatever it is made of, and as if it did not follow its face."""
        return PictureOnPart(
            picture=self.picture,
            center=self.center,
            right=self.right,
            up=self.up,
            width=self.width,
            height=self.height,
            turn=self.turn,
            depth=self.depth,
            front_only=True,
            strength=self.opacity,
            mirrored=self.mirrored,
            radius=self.wrap.radius if self.wrap else 0.0,
            along=self.wrap.along if self.wrap else "up",
            taper=self.wrap.taper if self.wrap else 0.0,
        )

    def _on_sheet(self) -> tuple[PictureOnPart, ...]:
        """Its picture in the coordinates of the face that it follows; beyond a seam it goes on from the other side."""
        assert self.sheet is not None
        (u, v), angle = self.sheet.at, math.radians(self.sheet.along)
        side = -1.0 if self.sheet.flipped else 1.0
        lies = {
            "right": (math.cos(angle), math.sin(angle), 0.0),
            "up": (-side * math.sin(angle), side * math.cos(angle), 0.0),
            "width": self.width * self.sheet.stretch[0],
            "height": self.height * self.sheet.stretch[1],
            "depth": 1e6,
            "front_only": False,
            "by_coordinates": True,
        }
        x, y = self.sheet.period or (0.0, 0.0)
        turns = (0, -1, 1) if self.sheet.period else (0,)
        places = [{"center": (u + k * x, v + k * y, 0.0)} for k in turns]
        return tuple(self.plain.model_copy(update=lies | place) for place in places)

    def laid(self) -> tuple[PictureOnPart, ...]:
        """What the tracer lays on the part, one after the other."""
        places = self._on_sheet() if self.sheet else (self.plain,)
        return tuple(plain.model_copy(update=layer) for layer in self._layers() for plain in places)

    def _layers(self) -> list[dict[str, object]]:
        """What is laid where its picture lies, one after the other, as changes to that picture."""
        finish, kind = self.finish, self.finish.kind
        light: dict[str, object] = {"target": "emission", "value": finish.light}
        if kind == "dead_front":
            return [light] if finish.lit else []
        found: list[dict[str, object]] = []
        if kind in ("engraved", "embossed"):
            height = finish.relief if kind == "embossed" else -finish.relief
            found.append({"target": "bump", "by_coverage": True, "strength": height})
        if kind in ("print", "foil", "glow") or (finish.filled and kind != "etched"):
            found.append({"foil" if kind == "foil" else "printed": True})
        usual = {"foil": FOIL_ROUGHNESS, "etched": ETCHED_ROUGHNESS}.get(kind)
        rough = finish.roughness if finish.roughness is not None else usual
        if rough is not None:
            found.append({"target": "roughness", "value": rough})
        if kind == "glow":
            found.append(light)
        return found
