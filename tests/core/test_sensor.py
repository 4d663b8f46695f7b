"""Cameras: projection against OpenCV, shifted lens, the blur of a thin lens against its formula."""

import cv2
import numpy as np
import pytest

from core.test_trace import appearance, color, mesh, world
from usual_lamp.core.camera import FILM_WIDTH, Camera, exposure_for, sharp_range
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.transport import sensor

SIZE = (640, 480)
CAMERA = Camera(position=(-120.0, -300.0, 140.0), target=(10.0, 5.0, 20.0), focal_length=70.0)


@pytest.mark.parametrize(("shift", "roll"), [((0.0, 0.0), 0.0), ((4.0, -7.5), 0.0), ((4.0, -7.5), 25.0)])
def test_points_fall_where_opencv_puts_them(shift: tuple[float, float], roll: float) -> None:
    """`cv2.projectPoints` with the camera matrix of the same lens, within a tenth of a pixel; and the rays through
    those places of the picture meet the points again."""
    camera = CAMERA.model_copy(update={"shift": shift, "roll": roll})
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


def test_a_rolled_camera_turns_the_picture_clockwise() -> None:
    """What is to the right of the middle comes below it."""
    camera = Camera(position=(0, -500, 0), target=(0, 0, 0), focal_length=50, roll=90.0)
    ((x, y, _),) = camera.project(np.array([[50.0, 0, 0]]), 1.0)
    assert x == pytest.approx(0, abs=1e-9) and y < -0.2


@pytest.mark.parametrize("parallel", [False, True])
def test_what_is_nearer_than_the_cut_is_not_met(parallel: bool) -> None:
    """All rays begin on the plane of the cut, on their way."""
    whole = CAMERA.model_copy(update={"parallel": parallel})
    cut = whole.model_copy(update={"near": 200.0})
    s, t = mi.Float(0.1, 0.5, 0.8), mi.Float(0.9, 0.5, 0.2)
    dark = np.ones((4, 8, 3), np.float32)
    before, after = (
        sensor.camera_rays(world({}, [], camera, dark, SIZE).inputs, s, t, mi.Point2f(0.5)) for camera in (whole, cut)
    )
    start, way = np.array(after.o).T, np.array(before.d).T
    np.testing.assert_allclose(np.array(after.d).T, way, atol=1e-6)
    depth = (start - np.array(CAMERA.position)) @ CAMERA.basis()[2]
    np.testing.assert_allclose(depth, 200.0, atol=1e-2)
    aside = np.cross(start - np.array(before.o).T, way)
    np.testing.assert_allclose(aside, 0.0, atol=0.02)


def test_sharp_range_and_meter_show_what_handbooks_say() -> None:
    """Hyperfocal distance of 50 mm at f/8 with circles of 0.03 mm: 10.47 m, sharp from half of it to infinity. EV 15 is
    sunlight of 4,096 cd/m² (ISO 2720 with K = 12.5), and f/16 at 1/125 s with ISO 100 (common practice) is EV 15."""
    camera = Camera(position=(0, 0, 0), target=(0, 1, 0), focal_length=50, f_number=8.0, focus_distance=10466.7)
    sharp = sharp_range(camera)
    assert sharp is not None and sharp.hyperfocal == pytest.approx(10470, rel=1e-3)
    assert sharp.near == pytest.approx(10470 / 2, rel=0.01)
    near = sharp_range(camera.model_copy(update={"focus_distance": 1000.0}))
    # 1/near - 1/s and 1/s - 1/far are equal in the handbook's formulas up to the focal length.
    assert near is not None and near.far is not None
    assert 1 / near.near - 1 / 1000 == pytest.approx(1 / 1000 - 1 / near.far, rel=0.06)
    beyond = sharp_range(camera.model_copy(update={"focus_distance": 20000.0}))
    assert beyond is not None and beyond.far is None
    small = sharp_range(camera.model_copy(update={"focus_distance": 1000.0, "sensor": 18.0}))
    # Half the sensor in the same frame is as sharp as two stops more.
    stopped = sharp_range(camera.model_copy(update={"focus_distance": 1000.0, "f_number": 16.0}))
    assert small is not None and stopped is not None and small.near == pytest.approx(stopped.near, rel=5e-3)
    assert sharp_range(camera.model_copy(update={"f_number": None})) is None
    meter = exposure_for(4096.0, 12.5 / 100 / 1.2)
    assert meter == pytest.approx(15.0) and meter == pytest.approx(np.log2(16**2 * 125), abs=0.05)


def speck(distance: float, size: float = 0.02):
    """A bright square this far in front of the camera at the origin, which looks along +y."""
    p = [(-size, distance, -size), (size, distance, -size), (size, distance, size), (-size, distance, size)]
    return mesh(p, [(0, -1, 0)] * 4, [(0, 1, 2), (0, 2, 3)])


@pytest.mark.parametrize(("blades", "shift", "film"), [(0, 0.0, 36.0), (6, 0.0, 36.0), (0, 8.0, 36.0), (0, 0.0, 18.0)])
def test_the_blur_disc_has_the_size_of_the_formula(blades: int, shift: float, film: float) -> None:
    """c = A f (d - s) / (d (s - f)) on the film for a point at d with focus at s (thin lens; E. Hecht, Optics,
    section 5.2); rays here leave the lens by the film's field of view, so the image distance is f and c is
    A f |d - s| / (d s)."""
    f, stop, s, d = 50.0, 2.0, 400.0, 800.0
    camera = Camera(
        position=(0, 0, 0), target=(0, 100, 0), focal_length=f, f_number=stop, focus_distance=s, blades=blades,
        shift=(shift, 0.0), sensor=film,
    )  # fmt: skip
    lit = appearance(specular_weight=0.0, base_color=(0, 0, 0), emission_luminance=1e6)
    dark = np.zeros((4, 8, 3), np.float32)
    size = (96, 96)
    w = world({"speck": speck(d, 1.0)}, [lit], camera, dark, size, backdrop={"kind": "plain", "bottom": "#000000"})
    image = color(w, 256)[..., 1]
    lit_up = image > 0.1 * image.max()
    # The lens that shows on half the sensor what this one shows on 36 mm is half as long, and as wide at its stop.
    expected = (f * film / FILM_WIDTH / stop) * f * (d - s) / (d * s) * size[0] / FILM_WIDTH
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
