"""Cameras: projection against OpenCV, shifted lens, the blur of a thin lens against its formula."""

import cv2
import numpy as np
import pytest

from core.test_trace import appearance, color, mesh, world
from usual_lamp.core.camera import FILM_WIDTH, Camera
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.transport import sensor

SIZE = (640, 480)
CAMERA = Camera(position=(-120.0, -300.0, 140.0), target=(10.0, 5.0, 20.0), focal_length=70.0)


@pytest.mark.parametrize("shift", [(0.0, 0.0), (4.0, -7.5)])
def test_points_fall_where_opencv_puts_them(shift: tuple[float, float]) -> None:
    """`cv2.projectPoints` with the camera matrix of the same lens, within a tenth of a pixel; and the rays through
    those places of the picture meet the points again."""
    camera = CAMERA.model_copy(update={"shift": shift})
    points = np.random.default_rng(3).uniform(-60, 60, (200, 3))
    right, up, forward = camera.basis()
    turn = np.stack([right, -up, forward])
    focal = camera.focal_length / FILM_WIDTH * SIZE[0]
    middle = (
        SIZE[0] / 2 - shift[0] * focal / camera.focal_length,
        SIZE[1] / 2 + shift[1] * focal / camera.focal_length,
    )
    matrix = np.array([[focal, 0, middle[0]], [0, focal, middle[1]], [0, 0, 1.0]])
    theirs = cv2.projectPoints(points, cv2.Rodrigues(turn)[0], -turn @ np.array(camera.position), matrix, None)[0][:, 0]
    seen = camera.project(points, SIZE[0] / SIZE[1])
    ours = np.stack([(seen[:, 0] + 1) / 2 * SIZE[0], (1 - seen[:, 1]) / 2 * SIZE[1]], axis=1)
    np.testing.assert_allclose(ours, theirs, atol=0.1)
    inputs = world({}, [], camera, np.ones((4, 8, 3), np.float32), SIZE).inputs
    s, t = (mi.Float(theirs[:, k] / SIZE[k]) for k in (0, 1))
    ray = sensor.camera_rays(inputs, s, t, mi.Point2f(0.3, 0.3))
    way = points - np.array(camera.position)
    np.testing.assert_allclose(np.array(ray.d).T, way / np.linalg.norm(way, axis=1)[:, None], atol=2e-4)


def test_a_shifted_lens_keeps_uprights_upright() -> None:
    """Looking level, a pole stays a vertical line wherever the lens is shifted."""
    level = Camera(position=(0, -500, 50), target=(0, 0, 50), focal_length=50, shift=(3.0, 9.0))
    x = level.project(np.array([[80.0, 0, 0], [80.0, 0, 200]]), 1.0)[:, 0]
    assert x[0] == pytest.approx(x[1], abs=1e-9)


def speck(distance: float, size: float = 0.02):
    """A bright square this far in front of the camera at the origin, which looks along +y."""
    p = [(-size, distance, -size), (size, distance, -size), (size, distance, size), (-size, distance, size)]
    return mesh(p, [(0, -1, 0)] * 4, [(0, 1, 2), (0, 2, 3)])


@pytest.mark.parametrize(("blades", "shift"), [(0, 0.0), (6, 0.0), (0, 8.0)])
def test_the_blur_disc_has_the_size_of_the_formula(blades: int, shift: float) -> None:
    """c = A f (d - s) / (d (s - f)) on the film for a point at d with focus at s (thin lens; E. Hecht, Optics,
    section 5.2); rays here leave the lens by the film's field of view, so the image distance is f and c is
    A f |d - s| / (d s)."""
    f, stop, s, d = 50.0, 2.0, 400.0, 800.0
    camera = Camera(
        position=(0, 0, 0), target=(0, 100, 0), focal_length=f, f_number=stop, focus_distance=s, blades=blades,
        shift=(shift, 0.0),
    )  # fmt: skip
    lit = appearance(specular_weight=0.0, base_color=(0, 0, 0), emission_luminance=1e6)
    dark = np.zeros((4, 8, 3), np.float32)
    size = (96, 96)
    w = world({"speck": speck(d, 1.0)}, [lit], camera, dark, size, backdrop={"kind": "plain", "bottom": "#000000"})
    image = color(w, 256)[..., 1]
    lit_up = image > 0.1 * image.max()
    expected = (f / stop) * f * (d - s) / (d * s) * size[0] / FILM_WIDTH
    if blades:
        # A regular hexagon in that circle.
        assert lit_up.sum() == pytest.approx(1.5 * np.sqrt(3) * (expected / 2) ** 2, rel=0.2)
    else:
        assert np.sqrt(lit_up.sum() * 4 / np.pi) == pytest.approx(expected, abs=1.5)
    # A shifted lens shows more of the right: what lies straight ahead moves left on the picture, its blur stays.
    ahead = 47.5 - shift / FILM_WIDTH * size[0]
    assert np.argwhere(lit_up).mean(axis=0) == pytest.approx([47.5, ahead], abs=0.5)


def test_what_is_in_focus_is_sharp() -> None:
    camera = Camera(position=(0, 0, 0), target=(0, 100, 0), focal_length=50, f_number=2.0, focus_distance=800)
    lens = mi.Point2f(dr.linspace(mi.Float, 0.01, 0.99, 64), dr.linspace(mi.Float, 0.99, 0.01, 64))
    inputs = world({}, [], camera, np.ones((4, 8, 3), np.float32), SIZE).inputs
    ray = sensor.camera_rays(inputs, mi.Float(0.7), mi.Float(0.4), lens)
    meet = np.array(ray(800.0 / ray.d.y)).T
    assert np.ptp(meet, axis=0) == pytest.approx(0, abs=2e-3) and np.ptp(np.array(ray.o).T, axis=0).max() > 10


def test_the_aperture_is_filled_evenly() -> None:
    """A round one and one of five blades: mean in the middle, and the area that geometry gives."""
    rng = mi.PCG32(size=100_000)
    u = mi.Point2f(rng.next_float32(), rng.next_float32())
    for blades, inner in ((0, 0.25), (5, np.pi * 0.25 / (2.5 * np.sin(2 * np.pi / 5)))):
        p = np.array(sensor.aperture(u, mi.UInt32(blades)))
        assert p.mean(axis=1) == pytest.approx([0, 0], abs=0.01)
        assert (np.hypot(*p) < 0.5).mean() == pytest.approx(inner, abs=0.01)
