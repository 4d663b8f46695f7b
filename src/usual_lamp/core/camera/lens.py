"""Camera placement: a 36 mm wide film behind a lens; z is up."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

FILM_WIDTH = 36.0
"""mm: focal lengths are given for the 36 x 24 mm format."""

MOST_SHIFT = 360.0
"""mm: more than any real lens has, since a crop of a frame is seen by a lens that is shifted."""
Shift = Annotated[float, Field(ge=-MOST_SHIFT, le=MOST_SHIFT)]
Place = Annotated[float, Field(ge=-1e8, le=1e8, description="mm")]
Vector = tuple[Place, Place, Place]
Array = NDArray[np.float64]


class Camera(BaseModel):
    """A camera: where it stands and looks (mm), its lens and its focus."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False)

    position: Vector
    target: Vector
    focal_length: Annotated[float, Field(ge=8.0, le=800.0, description="mm on 36 mm film width")] = 85.0
    parallel: bool = False
    """Parallel projection, as wide as the perspective one is at the target."""
    f_number: Annotated[
        float | None, Field(ge=0.7, le=64.0, description="focal length over aperture; none: everything is sharp")
    ] = None
    focus_distance: Annotated[
        float | None, Field(gt=0.0, le=1e7, description="mm along the axis; none: at the target")
    ] = None
    blades: Annotated[int, Field(ge=0, le=16, description="of the aperture; under 3: round")] = 0
    shift: tuple[Shift, Shift] = (0.0, 0.0)
    """mm by which the lens is shifted to the right and upwards over the film: the picture shows more of that side,
    and uprights stay upright."""
    roll: Annotated[float, Field(ge=-180.0, le=180.0, description="degrees by which the picture turns clockwise")] = 0.0
    sensor: Annotated[
        float, Field(ge=1.0, le=60.0, description="mm; a smaller one is sharp over a greater depth in the same frame")
    ] = FILM_WIDTH
    near: Annotated[
        float | None, Field(gt=0.0, le=1e7, description="mm along the axis up to which all is cut away; null: nothing")
    ] = None

    def basis(self) -> Array:
        """(3, 3) rows: right, up, forward; unit and orthogonal, also when looking straight up or down."""
        forward = np.subtract(self.target, self.position)
        length = float(np.linalg.norm(forward))
        forward = forward / length if length > 0 else np.array([0.0, 1.0, 0.0])
        up = np.array([0.0, 0.0, 1.0])
        if abs(forward[2]) > 0.99999:
            up = np.array([0.0, 1.0, 0.0]) * (1.0 if forward[2] < 0 else -1.0)
        right = np.cross(forward, up)
        right /= np.linalg.norm(right)
        level = np.cross(right, forward)
        # A camera that turns counter-clockwise turns the picture clockwise.
        cos, sin = np.cos(np.radians(self.roll)), np.sin(np.radians(self.roll))
        return np.stack([cos * right + sin * level, cos * level - sin * right, forward])

    def half_tangents(self, aspect: float) -> tuple[float, float]:
        """Tangents of half the horizontal and vertical field of view, for width / height = aspect."""
        across = FILM_WIDTH / 2 / self.focal_length
        return across, across / aspect

    def offset(self) -> tuple[float, float]:
        """Tangents by which the lens shift moves the middle of the frame off the axis, to the right and upwards."""
        return self.shift[0] / self.focal_length, self.shift[1] / self.focal_length

    def aperture_radius(self) -> float:
        """mm; 0 for a pinhole and in parallel projection."""
        if self.f_number is None or self.parallel:
            return 0.0
        return self.true_focal_length() / self.f_number / 2

    def true_focal_length(self) -> float:
        """mm, of the lens that shows on its sensor what one of the focal length shows on 36 mm."""
        return self.focal_length * self.sensor / FILM_WIDTH

    def sharp_at(self) -> float:
        """Distance of the plane in focus, mm along the axis."""
        return self.focus_distance or max(float(np.linalg.norm(np.subtract(self.target, self.position))), 1e-3)

    def project(self, points: Array, aspect: float) -> Array:
        """(N, 3) points to (N, 3): x and y in -1..1 inside the frame, and depth along the axis in mm."""
        seen = (np.asarray(points) - np.array(self.position)) @ self.basis().T
        across, along = self.half_tangents(aspect)
        depth = seen[:, 2]
        if self.parallel:
            depth = np.full_like(depth, np.linalg.norm(np.subtract(self.target, self.position)))
        safe = np.where(np.abs(depth) < 1e-9, 1e-9, depth)
        right, up = self.offset()
        return np.stack([(seen[:, 0] / safe - right) / across, (seen[:, 1] / safe - up) / along, seen[:, 2]], axis=1)

    def points(self, depth: Array, first: int = 0, height: int | None = None) -> Array:
        """The reverse of `project`: what the middles of a picture's pixels show at a depth of so many mm along the
        axis, (H, W) to (H, W, 3); or, of a picture of that height, its rows from `first` on."""
        rows, width = depth.shape
        height = height or rows
        across, along = self.half_tangents(width / height)
        right, up = self.offset()
        x = ((np.arange(width) + 0.5) / width * 2 - 1) * across + right
        y = (1 - (np.arange(first, first + rows) + 0.5) / height * 2) * along + up
        far = np.full_like(depth, np.linalg.norm(np.subtract(self.target, self.position))) if self.parallel else depth
        seen = np.stack([x[None, :] * far, y[:, None] * far, depth], axis=-1)
        found: Array = seen @ self.basis() + np.array(self.position)
        return found


def three_quarter(azimuth: float = -29.0, elevation: float = 15.0) -> Array:
    """Unit direction from the product towards a camera; degrees, azimuth 0 is the front (-y), + to the right."""
    a, e = np.radians([azimuth, elevation])
    return np.array([np.sin(a) * np.cos(e), -np.cos(a) * np.cos(e), np.sin(e)])


def frame_points(points: Array, direction: Array, focal_length: float, aspect: float, fill: float = 0.74) -> Camera:
    """A camera in the given direction in which the points fill at most `fill` of width and height, centred.

    Distance and centre are refined until the projected box is centred; raises ValueError without points.
    """
    if len(points) == 0:
        raise ValueError("nothing to frame")
    target = (points.min(axis=0) + points.max(axis=0)) / 2
    radius = max(float(np.linalg.norm(points - target, axis=1).max()), 1e-3)
    distance = radius * 2 * focal_length / FILM_WIDTH / fill + radius
    for _ in range(12):
        position = target + direction * distance
        camera = Camera(position=_vector(position), target=_vector(target), focal_length=focal_length)
        seen = camera.project(points, aspect)
        low, high = seen[:, :2].min(axis=0), seen[:, :2].max(axis=0)
        distance = radius + (distance - radius) * float((high - low).max() / 2 / fill)
        middle, basis = (low + high) / 2, camera.basis()
        across, along = camera.half_tangents(aspect)
        target = target + basis[0] * middle[0] * across * distance + basis[1] * middle[1] * along * distance
    return Camera(position=_vector(target + direction * distance), target=_vector(target), focal_length=focal_length)


def _vector(values: Array) -> Vector:
    x, y, z = (round(float(v), 4) for v in values)
    return x, y, z
