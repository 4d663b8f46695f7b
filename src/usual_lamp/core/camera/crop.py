"""A part of the frame as a frame of its own, seen by a longer lens that is shifted over the film."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from usual_lamp.core.camera.lens import FILM_WIDTH, MOST_SHIFT, Camera

LONGEST = 800.0
"""mm."""
LEAST_SENSOR = 1.0
"""mm."""
LEAST_PIXELS, MOST_PIXELS = 64, 16384
"""Of a side, as of every shot and still."""
Region = tuple[float, float, float, float]
Share = Annotated[float, Field(ge=0.0, le=1.0)]
Side = Annotated[int, Field(ge=1, le=100_000)]
PixelSide = Annotated[int, Field(ge=LEAST_PIXELS, le=MOST_PIXELS)]


class CannotCrop(ValueError):
    """No lens shows that part alone."""


def cropped(camera: Camera, region: Region, size: tuple[int, int]) -> tuple[Camera, tuple[int, int]]:
    """The camera that shows a region of its frame (left, top, right, bottom as shares), and the pixels of that frame,
    whose longer side has as many as that of the whole; `size` is the width and height of the whole.

    The eye stays, so perspective does: similar triangles give the focal length f/w of a region of the width w, and the
    shift (s + c)/w of one whose middle lies c mm off that of the film. On a sensor that is smaller by w as well, the
    glass and its aperture are the same, and so is the blur. Raises CannotCrop for a region that is empty,
    or so small or far off that the lens would be out of its range.
    """
    left, top, right, bottom = region
    wide, high = right - left, bottom - top
    if not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
        raise CannotCrop("Drag a frame inside the picture.")
    focal = camera.focal_length / wide
    film_height = FILM_WIDTH * size[1] / size[0]
    across = (camera.shift[0] + ((left + right) / 2 - 0.5) * FILM_WIDTH) / wide
    upward = (camera.shift[1] + (0.5 - (top + bottom) / 2) * film_height) / wide
    if focal > LONGEST:
        raise CannotCrop(f"That needs a lens of {focal:.0f} mm; the longest is {LONGEST:.0f} mm. Move closer instead.")
    if max(abs(across), abs(upward)) > MOST_SHIFT or camera.sensor * wide < LEAST_SENSOR:
        raise CannotCrop("That is too small a part of so wide a view. Turn and move the view towards it first.")
    change = {"focal_length": focal, "shift": (across, upward), "sensor": camera.sensor * wide}
    finer = max(size) / max(size[0] * wide, size[1] * high)
    width, height = (max(LEAST_PIXELS, round(side * finer)) for side in (size[0] * wide, size[1] * high))
    return camera.model_copy(update=change), (width, height)


class Crop(BaseModel):
    """A part of a frame that is kept."""

    model_config = ConfigDict(frozen=True)

    region: tuple[Share, Share, Share, Share]
    """Left, top, right, bottom as shares of the frame."""
    whole: tuple[Side, Side]
    """Width and height of the frame, px."""

    @staticmethod
    def of(region: Region, whole: tuple[int, int]) -> Crop:
        """A region along the pixels of a picture. Raises CannotCrop for one that is too small."""
        left, top, right, bottom = (
            int(np.clip(round(share * side), 0, side)) for share, side in zip(region, whole * 2, strict=True)
        )
        if right - left < LEAST_PIXELS or bottom - top < LEAST_PIXELS:
            raise CannotCrop(f"Drag a larger frame: {LEAST_PIXELS} x {LEAST_PIXELS} pixels at least.")
        wide, high = whole
        return Crop(region=(left / wide, top / high, right / wide, bottom / high), whole=whole)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height, px."""
        left, top, right, bottom = self.region
        return round((right - left) * self.whole[0]), round((bottom - top) * self.whole[1])

    def inside(self, earlier: Crop) -> Crop:
        """The part of the first frame that this one, a part of an earlier part, shows."""
        left, top, right, bottom = earlier.region
        wide, high = right - left, bottom - top
        here = self.region
        start, end = (left + here[0] * wide, top + here[1] * high), (left + here[2] * wide, top + here[3] * high)
        return Crop(region=(*start, min(1.0, end[0]), min(1.0, end[1])), whole=earlier.whole)

    def of_camera(self, camera: Camera) -> Camera:
        """The camera that shows the part alone. Raises CannotCrop where no lens does."""
        return cropped(camera, self.region, self.whole)[0]

    @property
    def corner(self) -> tuple[int, int]:
        """Of the part, at the left and top: pixels of the frame."""
        return round(self.region[0] * self.whole[0]), round(self.region[1] * self.whole[1])
