"""Where surroundings are bright, and turned until a spot shines: until a bright area is mirrored there to the eye."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.light.arranging import CannotPlace
from usual_lamp.core.light.surroundings import LUMINANCE, directions, shrunk

BAND = 4.0
"""Degrees above and below the mirrored direction in which a bright area counts."""
BRIGHT, STANDS_OUT = 0.7, 1.8
"""Share of the brightest there from which on it is bright, and how many times the median that must at least be."""

MOST_BRIGHT = 5
APART = 25.0
"""Degrees round a bright direction that count as one with it."""
BRIGHT_OVER_MEAN = 2.0
"""Times the mean luminance of the upper half from which on a direction is marked."""


@dataclass(frozen=True)
class BrightDirection:
    """A direction from which much light comes; degrees as in maps."""

    azimuth: float
    elevation: float
    share: float
    """Of the light of all that is above the horizon, within APART."""


def brightest(image: NDArray[np.floating]) -> list[BrightDirection]:
    """The brightest directions of a map (H, 2H, 3) above the horizon, at most MOST_BRIGHT, the brightest first; none
    where it is even."""
    small = shrunk(image, 128)
    height = small.shape[0]
    luminance = small @ LUMINANCE
    toward = directions(height)
    weight = np.cos(np.arcsin(toward[..., 2])) * (toward[..., 2] > 0)
    light = luminance * weight
    left, total = np.where(weight > 0, luminance, 0.0), max(float(light.sum()), 1e-12)
    least = BRIGHT_OVER_MEAN * total / float(weight.sum())
    found: list[BrightDirection] = []
    while len(found) < MOST_BRIGHT and left.max() >= least:
        peak = toward[np.unravel_index(left.argmax(), left.shape)]
        near = toward @ peak >= np.cos(np.radians(APART))
        # The middle of what is bright there, not its first pixel.
        part = light * (near & (luminance >= BRIGHT * left.max()))
        middle = np.einsum("ij,ijk->k", part, toward)
        middle /= np.linalg.norm(middle)
        azimuth, elevation = np.arctan2(middle[0], -middle[1]), np.arcsin(middle[2])
        share = float((light * near).sum()) / total
        found.append(
            BrightDirection(round(float(np.degrees(azimuth)), 1), round(float(np.degrees(elevation)), 1), share)
        )
        left = np.where(near, 0.0, left)
    return found


def turn_to_shine(
    image: NDArray[np.floating],
    turn: float,
    eye: NDArray[np.float64],
    point: NDArray[np.float64],
    normal: NDArray[np.float64],
) -> float:
    """Degrees to turn a map (H, 2H, 3) to, the nearest to `turn` at which a bright area shines on a point (mm, with its
    unit normal) to the eye. Raises CannotPlace."""  # fmt: skip
    view = eye - point
    view = view / np.linalg.norm(view)
    if view @ normal <= 0.02:
        raise CannotPlace("This face is seen edge-on from here. Select a spot that faces the view.")
    mirrored = 2.0 * (view @ normal) * normal - view
    elevation = np.degrees(np.arcsin(np.clip(mirrored[2], -1.0, 1.0)))
    if elevation <= 0:
        raise CannotPlace("From here this spot mirrors the floor. Select one that faces upwards more.")
    height = image.shape[0]
    rows = 90.0 - (np.arange(height) + 0.5) * 180.0 / height
    band = image[np.abs(rows - elevation) <= max(BAND, 180.0 / height)] @ LUMINANCE
    around = band.mean(axis=0)
    if around.max() < STANDS_OUT * max(float(np.median(around)), 1e-9):
        raise CannotPlace("At the height that is mirrored there the surroundings are evenly bright all around.")
    columns = np.flatnonzero(around >= BRIGHT * around.max())
    azimuth = (columns + 0.5) * 360.0 / image.shape[1] - 180.0
    wanted = np.degrees(np.arctan2(mirrored[0], -mirrored[1])) - azimuth
    change = (wanted - turn + 180.0) % 360.0 - 180.0
    nearest = float(change[np.abs(change).argmin()])
    return round((turn + nearest + 180.0) % 360.0 - 180.0, 1)
