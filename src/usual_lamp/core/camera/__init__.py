"""Cameras: lens, framing and exposure. Lengths in mm, angles in radians."""

from usual_lamp.core.camera.exposure import exposure_for, exposure_scale
from usual_lamp.core.camera.finish import DAYLIGHT, Finish, Tone, white_matrix
from usual_lamp.core.camera.lens import FILM_WIDTH, Camera, frame_points, three_quarter
from usual_lamp.core.camera.sharpness import SharpRange, sharp_range

__all__ = [
    "DAYLIGHT",
    "FILM_WIDTH",
    "Camera",
    "Finish",
    "SharpRange",
    "Tone",
    "exposure_for",
    "exposure_scale",
    "frame_points",
    "sharp_range",
    "three_quarter",
    "white_matrix",
]
