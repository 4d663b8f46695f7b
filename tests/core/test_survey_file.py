"""What is kept of a survey: exact where it must be, small where it may be, and readable by others."""

from __future__ import annotations

import json

import numpy as np
import OpenEXR
import pytest

from core.test_trace import appearance, square, world
from usual_lamp.core.camera import Camera
from usual_lamp.core.exr import ChannelReader, UnreadablePicture, write_channels
from usual_lamp.core.picture.develop import without_grain
from usual_lamp.core.picture.negative import Negative
from usual_lamp.core.picture.survey_file import SurveyFile, matte_words, write_survey
from usual_lamp.core.trace.jobs.survey import survey
from usual_lamp.core.trace.plan import Tile

EVEN = np.full((16, 32, 3), 100.0, np.float32)
ABOVE = Camera(position=(0, 0, 100), target=(0, 0, 0), focal_length=90)
CAMERA = Camera(position=(120.0, -400.0, 90.0), target=(5.0, 2.0, 30.0), focal_length=60.0, shift=(2.0, -1.0), roll=4.0)


def made_up(height: int = 40, width: int = 64) -> dict[str, np.ndarray]:
    draw = np.random.default_rng(3)
    normal = draw.normal(size=(height, width, 3))
    return {
        "depth": draw.uniform(100, 5000, (height, width)).astype(np.float32),
        "part": draw.integers(-1, 70_000, (height, width)).astype(np.float32),
        "appearance": draw.integers(-1, 40, (height, width)).astype(np.float32),
        "alpha": draw.uniform(0, 1, (height, width)).astype(np.float32),
        "occlusion": np.full((height, width), 0.5, np.float32),
        "normal": (normal / np.linalg.norm(normal, axis=2, keepdims=True)).astype(np.float32),
    }


def test_numbers_of_parts_and_depths_are_exact_and_the_rest_nearly(tmp_path) -> None:
    found = made_up()
    write_survey(tmp_path / "seen.exr", found)
    kept = SurveyFile(tmp_path / "seen.exr").channels(CAMERA, 0, 40)
    for name in ("depth", "part", "appearance"):
        np.testing.assert_array_equal(kept[f"{name}.Y"], found[name])
    np.testing.assert_allclose(kept["alpha.Y"], found["alpha"], atol=5e-4)
    for k, axis in enumerate("XYZ"):
        np.testing.assert_allclose(kept[f"surface_normal.{axis}"], found["normal"][..., k], atol=5e-4)


@pytest.mark.parametrize("parallel", [False, True])
def test_positions_are_where_the_camera_projects_them(parallel: bool) -> None:
    camera, found = CAMERA.model_copy(update={"parallel": parallel}), made_up()
    points = camera.points(found["depth"]).reshape(-1, 3)
    x, y, depth = camera.project(points, 64 / 40).T
    rows, columns = np.divmod(np.arange(64 * 40), 64)
    np.testing.assert_allclose((x + 1) / 2 * 64 - 0.5, columns, atol=1e-6)
    np.testing.assert_allclose((1 - y) / 2 * 40 - 0.5, rows, atol=1e-6)
    np.testing.assert_allclose(depth, found["depth"].ravel(), rtol=1e-9)


def test_words_in_the_header_are_read_by_the_format_s_own_library(tmp_path) -> None:
    words = matte_words(["Gehäuse", "ねじ"], ["Zinc plate"])
    file = tmp_path / "seen.exr"
    write_channels(file, (5, 4), [{"part.Y": np.zeros((4, 5), np.float32)}], np.float32, words)
    with OpenEXR.File(str(file)) as read:
        parts, worn = (json.loads(read.header()[name]) for name in ("parts", "appearances"))
    assert parts == {"0": "Gehäuse", "1": "ねじ"} and worn == {"0": "Zinc plate"}
    assert matte_words([], []) == {}


def test_channels_keep_their_kind_of_number_however_many_rows_are_written_and_read(tmp_path) -> None:
    values = {"a.Y": np.linspace(0, 2, 60).reshape(20, 3).astype(np.float16),
              "b.Y": np.full((20, 3), 2**24 - 1, np.float32)}  # fmt: skip
    path = tmp_path / "kept.exr"
    parts = [{name: one[rows] for name, one in values.items()} for rows in (slice(0, 7), slice(7, 8), slice(8, 20))]
    write_channels(path, (3, 20), parts, {"a.Y": np.float16, "b.Y": np.float32})
    read = ChannelReader(path)
    assert (read.width, read.height) == (3, 20) and read.kinds == {"a.Y": np.float16, "b.Y": np.float32}
    found = read.rows(5, 19)
    assert all((found[name] == values[name][5:19]).all() for name in values)
    assert set(read.rows(0, 1, ["b.Y"])) == {"b.Y"}
    for kind in (Negative, SurveyFile):
        with pytest.raises(UnreadablePicture, match="could not be read"):
            kind(path)
    path.write_bytes(b"none")
    with pytest.raises(UnreadablePicture, match="could not be read"):
        ChannelReader(path)


def test_grain_goes_and_edges_stay() -> None:
    """Where the normal turns, two sides keep their own values."""
    draw = np.random.default_rng(5)
    truth = np.where(np.arange(96) < 48, 0.2, 0.8)[None, :].repeat(64, axis=0)
    normal = np.zeros((64, 96, 3), np.float32)
    normal[:, :48, 0] = normal[:, 48:, 2] = 1.0
    seen = (draw.uniform(size=(4, 64, 96)) < truth).mean(axis=0).astype(np.float32)
    clean = without_grain(seen, normal)
    assert clean.shape == truth.shape and clean.min() >= 0 and clean.max() <= 1
    assert np.abs(clean - truth).mean() < 0.25 * np.abs(seen - truth).mean()


def test_a_clear_cover_does_not_take_the_sky_from_what_lies_beneath() -> None:
    plate, cover, lid = square(20.0), square(20.0, 8.0), square(20.0, 8.0)
    clear = appearance(transmission_weight=1.0, specular_roughness=0.0, geometry_thin_walled=True)
    matt = appearance(specular_weight=0.0)
    middle = (slice(14, 26), slice(14, 26))
    free = {}
    for name, upper, wear in (("clear", cover, clear), ("solid", lid, matt)):
        seen_from_below = CAMERA.model_copy(update={"position": (0, -120, 6), "target": (0, 0, 3), "shift": (0, 0)})
        camera = ABOVE if name == "clear" else seen_from_below
        w = world({"plate": plate, "cover": upper}, [matt, wear], camera, EVEN, (40, 40))
        free[name] = survey(w, Tile(0, 0, 40, 40), 64)
    assert (free["clear"].part[middle] == 0).all(), "one looks through the cover at the plate"
    assert free["clear"].occlusion[middle].mean() == pytest.approx(1.0, abs=0.01)
    beneath = (free["solid"].part == 0) & (np.abs(free["solid"].position[..., :2]).max(axis=2) < 5)
    assert beneath.any() and free["solid"].occlusion[beneath].mean() < 0.6
