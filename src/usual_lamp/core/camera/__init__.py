"""Cameras: lens, framing and exposure. Lengths in mm, angles in radians."""

from usual_lamp.core.camera.crop import CannotCrop, cropped
from usual_lamp.core.camera.exposure import exposure_for, exposure_scale
from usual_lamp.core.camera.finish import DAYLIGHT, Finish, Tone, white_matrix
from usual_lamp.core.camera.lens import FILM_WIDTH, MOST_SHIFT, Camera, frame_points, three_quarter
from usual_lamp.core.camera.sharpness import SharpRange, sharp_range
from usual_lamp.core.camera.white import NoGrey, white_from_grey

__all__ = [
    "DAYLIGHT",
    "FILM_WIDTH",
    "MOST_SHIFT",
    "Camera",
    "CannotCrop",
    "Finish",
    "NoGrey",
    "SharpRange",
    "Tone",
    "cropped",
    "exposure_for",
    "exposure_scale",
    "frame_points",
    "sharp_range",
    "three_quarter",
    "white_from_grey",
    "white_matrix",
]
