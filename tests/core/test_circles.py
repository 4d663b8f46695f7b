"""Circles through points: known ones, arcs, and OpenCV's."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from usual_lamp.core.assembly.circles import circle_through


def on_circle(radius: float, middle: tuple[float, float], angles: np.ndarray) -> np.ndarray:
    return np.array(middle) + radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)


@pytest.mark.parametrize(("start", "end"), [(0.0, 2 * np.pi), (0.3, 1.9), (2.0, 2.6)])
def test_a_circle_is_found_from_all_of_it_or_an_arc(start: float, end: float) -> None:
    found = circle_through(on_circle(12.5, (340.0, -7.25), np.linspace(start, end, 9)))
    assert found.middle == pytest.approx((340.0, -7.25), abs=1e-6) and found.radius == pytest.approx(12.5, abs=1e-6)
    assert found.off < 1e-6


def test_points_off_it_are_told_by_the_farthest() -> None:
    points = on_circle(10.0, (0.0, 0.0), np.linspace(0, 2 * np.pi, 40, endpoint=False))
    points[7] *= 1.05
    found = circle_through(points)
    assert found.off == pytest.approx(0.5, abs=0.06)
    square = circle_through(np.array([(1.0, 1.0), (-1.0, 1.0), (-1.0, -1.0), (1.0, -1.0), (1.0, 0.0), (0.0, 1.0)]))
    assert square.off > 0.1 * square.radius, "a square is none, though its corners lie on one"


def test_noisy_points_give_what_opencv_fits() -> None:
    rng = np.random.default_rng(4)
    points = on_circle(50.0, (3.0, 8.0), rng.uniform(0, 2 * np.pi, 300)) + rng.normal(0, 0.05, (300, 2))
    found = circle_through(points)
    (x, y), axes, _ = cv2.fitEllipse(points.astype(np.float32))
    assert found.middle == pytest.approx((x, y), abs=0.02) and found.radius == pytest.approx(
        np.mean(axes) / 2, abs=0.02
    )


def test_points_in_one_place_are_a_circle_without_a_radius() -> None:
    found = circle_through(np.tile([4.0, 5.0], (6, 1)))
    assert found.radius == pytest.approx(0.0, abs=1e-3) and found.off < 1e-3
