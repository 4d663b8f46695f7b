"""The circle that lies nearest to some points of a plane."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Circle(NamedTuple):
    """A circle through points, in their unit."""

    middle: Array
    """(2,)."""
    radius: float
    off: float
    """How far the farthest of the points lies off it."""


def circle_through(points: Array) -> Circle:
    """The circle nearest to (N, 2) points by algebraic least squares (I. Kasa, 1976: x² + y² is linear in the middle
    and a constant). Points in one place give the radius 0."""
    # About their own middle the sums stay small, and points in one place are at nought.
    origin = points.mean(axis=0)
    arms = points - origin
    rows, wanted = np.c_[2 * arms, np.ones(len(arms))], (arms**2).sum(axis=1)
    (x, y, k), *_ = np.linalg.lstsq(rows, wanted, rcond=None)
    radius = float(np.sqrt(max(k + x * x + y * y, 0.0)))
    off = float(np.abs(np.linalg.norm(arms - [x, y], axis=1) - radius).max())
    return Circle(origin + np.array([x, y]), radius, off)
