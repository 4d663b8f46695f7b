"""Shots: a camera with the size and finish of its picture, and what is special in it."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from usual_lamp.core.camera import DAYLIGHT, FILM_WIDTH, Camera, Finish, Tone
from usual_lamp.core.camera.crop import PixelSide
from usual_lamp.core.camera.finish import Contrast, Exposure, Glare, Saturation, Sharpening, Vignette, White
from usual_lamp.core.scene.frozen import Frozen
from usual_lamp.core.scene.section import Section

MOST_SHOTS = 60
PURPOSES: dict[str, tuple[int, int]] = {
    "slide, 16:9": (1920, 1080),
    "slide, 4:3": (1600, 1200),
    "screen, large": (2560, 1440),
    "mail": (1280, 960),
    "square": (1200, 1200),
    "sheet A4, 300 dpi": (3508, 2480),
    "sheet A4 upright, 300 dpi": (2480, 3508),
    "sheet A3, 300 dpi": (4961, 3508),
    "sheet A4, 150 dpi": (1754, 1240),
    "sheet A2, 300 dpi": (7016, 4961),
    "sheet A1, 300 dpi": (9933, 7016),
    "sheet A0, 300 dpi": (14043, 9933),
}
"""What a picture is for, and its pixels; sheets are those of ISO 216."""


class Shot(Frozen):
    """A camera with the size (pixels) and finish of its picture."""

    name: str
    place: Annotated[int, Field(ge=0, le=9999, description="in the list of shots; equal ones by age")] = 0
    locked: bool = Field(False, description="nothing but its name and place can be changed")
    hidden: frozenset[str] = Field(frozenset(), description="parts that it alone does not show, by uid")
    section: Section | None = Field(None, description="a plane that cuts the product in it alone")
    camera: Camera
    width: PixelSide = 1280
    height: PixelSide = 960
    exposure: Exposure = 9.3
    white: White = DAYLIGHT
    tone: Tone = "neutral"
    contrast: Contrast = 1.0
    saturation: Saturation = 1.0
    vignette: Vignette = 0.0
    glare: Glare = 0.0
    sharpening: Sharpening = 0.0
    lighting: str | None = Field(None, description="a lighting of its own, by id; null: the one that the review shows")

    def as_locked(self) -> Shot:
        """The shot without what a lock leaves free: equal ones differ in nothing that is held."""
        return self.model_copy(update={"name": "shot", "place": 0, "locked": False})

    @property
    def finish(self) -> Finish:
        """All that makes a picture of recorded light, as one."""
        return Finish(**{name: getattr(self, name) for name in Finish.model_fields})


class Habits(Frozen):
    """What the first shot of a new review is made with: lens, size and finish of one that was kept for that."""

    focal_length: float = 85.0
    sensor: float = FILM_WIDTH
    f_number: float | None = None
    width: int = 1280
    height: int = 960
    finish: Finish = Finish()

    @staticmethod
    def of(shot: Shot) -> Habits:
        """Those of a shot. Where it stands and what it focuses on belongs to its product."""
        camera = shot.camera
        return Habits(
            focal_length=camera.focal_length,
            sensor=camera.sensor,
            f_number=camera.f_number,
            width=shot.width,
            height=shot.height,
            finish=shot.finish,
        )

    def applied(self, shot: Shot) -> Shot:
        """A shot that was framed with this focal length and shape, with the rest of them."""
        camera = shot.camera.model_copy(update={"sensor": self.sensor, "f_number": self.f_number})
        change = {"camera": camera, "width": self.width, "height": self.height, **dict(self.finish)}
        return Shot.model_validate(shot.model_copy(update=change).model_dump())
