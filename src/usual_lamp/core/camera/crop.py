"""A part of the frame as a frame of its own, seen by a longer lens that is shifted over the film."""

from __future__ import annotations

from usual_lamp.core.camera.lens import FILM_WIDTH, MOST_SHIFT, Camera

LONGEST = 800.0
"""mm."""
LEAST_SENSOR = 1.0
"""mm."""
LEAST_PIXELS = 64
"""Of a side, as of every shot."""
Region = tuple[float, float, float, float]


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
