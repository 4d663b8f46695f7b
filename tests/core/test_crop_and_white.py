"""A shot that is cropped, and one that is balanced by something grey."""

from __future__ import annotations

import colour
import cv2
import numpy as np
import pytest
from pydantic import ValidationError

from usual_lamp.core.camera import Camera, CannotCrop, NoGrey, cropped, white_from_grey
from usual_lamp.core.camera.crop import Crop
from usual_lamp.core.camera.finish import RGB_TO_XYZ, white_matrix
from usual_lamp.core.scene import Shot

CAMERA = Camera(
    position=(120.0, -400.0, 90.0),
    target=(5.0, 2.0, 30.0),
    focal_length=60.0,
    shift=(2.0, -1.0),
    roll=4.0,
    f_number=4.0,
)


@pytest.mark.parametrize("parallel", [False, True])
def test_a_cropped_shot_shows_the_same_only_larger(parallel: bool) -> None:
    camera = CAMERA.model_copy(update={"parallel": parallel})
    points = np.random.default_rng(1).uniform(-60, 60, (50, 3))
    left, top, right, bottom = region = (0.3, 0.15, 0.75, 0.5)
    made, (width, height) = cropped(camera, region, (1500, 1000))
    assert (width, height) == (1500, 778), "the longer side keeps its pixels"
    aspect = 1.5 * 0.45 / 0.35
    assert made.aperture_radius() == pytest.approx(camera.aperture_radius()), "the same blur"
    whole, part = (one.project(points, ratio) for one, ratio in ((camera, 1.5), (made, aspect)))
    across, down = (whole[:, 0] + 1) / 2, (1 - whole[:, 1]) / 2
    wanted = np.stack([(across - left) / (right - left), (down - top) / (bottom - top)], axis=1)
    assert np.stack([(part[:, 0] + 1) / 2, (1 - part[:, 1]) / 2], axis=1) == pytest.approx(wanted, abs=1e-9)


@pytest.mark.parametrize("region", [(0.1, 0.5, 0.9, 0.51), (0.49, 0.1, 0.51, 0.9)])
def test_a_shot_can_be_cropped_to_a_sliver(region: tuple[float, float, float, float]) -> None:
    wide = CAMERA.model_copy(update={"focal_length": 8.0, "shift": (0.0, 0.0), "sensor": 60.0})
    made, (width, height) = cropped(wide, region, (1600, 1200))
    shot = Shot(name="sliver", camera=Camera.model_validate(made.model_dump()), width=width, height=height)
    assert min(shot.width, shot.height) == 64 and max(shot.width, shot.height) == 1600


def test_a_crop_of_a_crop_is_one_crop() -> None:
    size = (1600, 1200)
    first, mid = cropped(CAMERA, (0.2, 0.1, 0.8, 0.7), size)
    twice, _ = cropped(first, (0.5, 0.25, 1.0, 0.75), mid)
    once, _ = cropped(CAMERA, (0.5, 0.25, 0.8, 0.55), size)
    assert twice.focal_length == pytest.approx(once.focal_length) and twice.sensor == pytest.approx(once.sensor)
    assert twice.shift == pytest.approx(once.shift, abs=0.05), "but for the rounding to whole pixels"
    whole, same = cropped(CAMERA, (0.0, 0.0, 1.0, 1.0), size)
    assert whole == CAMERA and same == size


def test_a_crop_against_opencv() -> None:
    """OpenCV crops by moving the principal point: the matrix of the camera of the part, from that of the whole."""
    camera = CAMERA.model_copy(update={"shift": (0.0, 0.0)})
    points = np.random.default_rng(2).uniform(-60, 60, (30, 3))
    width, height = 1200, 800
    made, size = cropped(camera, (0.25, 0.25, 0.5, 0.625), (width, height))
    assert size == (1200, 1200)
    right, up, forward = camera.basis()
    turn = np.stack([right, -up, forward])
    focal = camera.focal_length / 36.0 * width
    inner = np.array([[focal, 0, width / 2 - 0.25 * width], [0, focal, height / 2 - 0.25 * height], [0, 0, 1]])
    theirs, _ = cv2.projectPoints(points, cv2.Rodrigues(turn)[0], -turn @ np.array(camera.position), inner, None)
    ours = made.project(points, 1.0)
    ours = np.stack([(ours[:, 0] + 1) / 2 * 300, (1 - ours[:, 1]) / 2 * 300], axis=1)
    assert ours == pytest.approx(theirs[:, 0], abs=0.05)


@pytest.mark.parametrize("region", [(0.5, 0.2, 0.5, 0.4), (0.4, 0.4, 0.42, 0.42), (0, 0, 2, 1)])
def test_what_no_lens_shows_is_refused_in_words(region: tuple[float, float, float, float]) -> None:
    with pytest.raises(CannotCrop, match=r"frame|lens"):
        cropped(CAMERA, region, (1500, 1000))
    with pytest.raises(CannotCrop, match="so wide a view"):
        cropped(CAMERA.model_copy(update={"focal_length": 8.0}), (0.0, 0.0, 0.04, 0.04), (1500, 1000))


@pytest.mark.parametrize("kelvin", [2500, 4500, 9000])
def test_a_grey_under_a_known_light_tells_its_colour_temperature(kelvin: int) -> None:
    """Planck's law below 4000 K and the CIE's daylight above, by colour-science."""
    sd = colour.sd_blackbody(kelvin) if kelvin < 4000 else None
    xy = colour.XYZ_to_xy(colour.sd_to_XYZ(sd)) if sd else colour.temperature.CCT_to_xy_CIE_D(kelvin)
    light = np.linalg.inv(RGB_TO_XYZ) @ (np.array([xy[0], xy[1], 1 - xy.sum()]) / xy[1])
    found, tint = white_from_grey(0.3 * light / light.max(), 6504.0)
    assert found == pytest.approx(kelvin, rel=0.02) and tint < 0.04


@pytest.mark.parametrize("share", [0.05, 0.2, 0.6])
def test_how_bright_the_grey_is_does_not_matter_and_a_second_click_changes_nothing(share: float) -> None:
    warm = np.array([1.0, 0.78, 0.52]) * share
    white, tint = white_from_grey(warm, 6504.0)
    bright, _ = white_from_grey(np.array([1.0, 0.78, 0.52]) * 0.4, 6504.0)
    assert white == pytest.approx(bright, rel=1e-3)
    balanced = white_matrix(white) @ warm
    assert np.ptp(balanced) / balanced.mean() == pytest.approx(tint, abs=1e-6) and tint < np.ptp(warm) / warm.mean()
    assert white_from_grey(balanced, white)[0] == pytest.approx(white, rel=2e-3)


def test_what_is_grey_already_keeps_its_white_and_black_tells_none() -> None:
    assert white_from_grey(np.full(3, 0.2), 3800.0)[0] == pytest.approx(3800.0, rel=0.002)
    for shown in (0.001, 0.99):
        with pytest.raises(NoGrey, match="Click"):
            white_from_grey(np.full(3, shown), 6504.0)
    assert white_from_grey(np.array([0.1, 0.5, 0.1]), 6504.0)[1] > 1, "green is no grey, and that is said"


def test_a_part_of_a_part_is_a_part_of_the_whole() -> None:
    """Along pixels; its lens is the one that cropping twice gives."""
    whole = (1200, 800)
    first = Crop.of((0.25, 0.25, 0.75, 0.751), whole)
    assert first.size == (600, 401)
    second = Crop.of((0.5, 0.0, 1.0, 0.5), first.size)
    joined = second.inside(first)
    picture = np.arange(1200 * 800).reshape(800, 1200)
    part = lambda crop, image: image[crop.corner[1] :, crop.corner[0] :][: crop.size[1], : crop.size[0]]  # noqa: E731
    np.testing.assert_array_equal(part(second, part(first, picture)), part(joined, picture))
    once, twice = joined.of_camera(CAMERA), second.of_camera(first.of_camera(CAMERA))
    assert once.focal_length == pytest.approx(twice.focal_length) and once.shift == pytest.approx(twice.shift)
    with pytest.raises(CannotCrop, match="64 x 64"):
        Crop.of((0.5, 0.5, 0.52, 1.0), whole)
    for odd in ({"region": (0, 0, float("nan"), 1)}, {"whole": (0, 800)}, {"region": (0, 0, 1.5, 1)}):
        with pytest.raises(ValidationError):
            Crop.model_validate({"region": (0, 0, 1, 1), "whole": whole} | odd)
