"""A picture that is made some rows or a block at a time is the one that is made at once."""

import io
import sys

import cv2
import numpy as np
import pytest
from PIL import Image

from core.test_trace import appearance, sphere, world
from usual_lamp.core.camera import Camera, Finish, exposure_scale
from usual_lamp.core.exr import join_files
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.picture import Clean, Layers, blocks, denoise, develop, finishing
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.blocks import blocks_of, cleaned_block, rows_of_blocks
from usual_lamp.core.picture.develop import scales_of, shrunk
from usual_lamp.core.picture.encoders import TooLarge, require_webp
from usual_lamp.core.picture.finished import finish_into
from usual_lamp.core.picture.finishing import encoded, encoded_area, encoded_rows
from usual_lamp.core.picture.lens_effects import Halos
from usual_lamp.core.picture.negative import Cut, Negative, clean_into, write_negative, write_scene_linear
from usual_lamp.core.picture.png_file import write_png
from usual_lamp.core.picture.survey_file import SurveyFile, write_survey
from usual_lamp.core.trace.jobs.grain import GrainMeter, stride_for
from usual_lamp.core.trace.jobs.still import survey_still, surveyed, trace_into, trace_still
from usual_lamp.core.trace.plan import CHANNELS, tiles
from usual_lamp.core.trace.tiled import ScratchTiles, TiledPicture, sketch_step

LOOK = Finish(exposure=9.3, contrast=1.1, saturation=0.9, vignette=0.7, glare=0.15, sharpening=0.6)
GROUND = (0.7, 0.66, 0.6)
EVEN = np.full((16, 32, 3), 100.0, np.float32)


@pytest.fixture
def clean() -> Clean:
    rng = np.random.default_rng(3)
    light = (rng.gamma(0.4, 300, (160, 120, 3)) * (rng.random((160, 120, 1)) < 0.3)).astype(np.float32)
    backdrop = np.broadcast_to(np.float32(GROUND), light.shape) * (light.sum(axis=2, keepdims=True) == 0)
    return Clean(light, np.asarray(backdrop, np.float32), light.sum(axis=2) == 0)


@pytest.mark.parametrize("ground", [None, GROUND])
@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_rows_are_finished_as_the_whole_is(clean, monkeypatch, kind, ground) -> None:
    """With all that a lens adds: glare comes from afar, sharpening from the rows beside, a vignette knows its place."""
    whole = encoded(clean, LOOK, kind, ground)
    monkeypatch.setattr(finishing, "AT_ONCE", 7 * 120)
    parts = list(encoded_rows(clean, LOOK, kind, ground))
    assert len(parts) > 20
    assert np.abs(np.concatenate(parts).astype(int) - whole).max() <= 1


def test_a_look_at_a_part_is_that_part_of_the_finished_picture(clean) -> None:
    area = Area(31, 17, 90, 60)
    part = encoded_area(clean, LOOK, area, finishing.halos_of(clean))
    whole = encoded(clean, LOOK, np.uint8).astype(int)
    assert np.abs(part - whole[17:60, 31:90]).max() <= 1


@pytest.mark.parametrize("width", [90, 3000])
def test_halos_are_the_same_however_many_rows_are_added(width) -> None:
    """Of a narrow picture at its full size, and of a wide one on smaller ones whose blocks do not fit into it."""
    light = np.random.default_rng(1).gamma(0.2, 100, (77, width, 3)).astype(np.float32)
    whole, grown = Halos(width, 77), Halos(width, 77)
    whole.add(0, light)
    for first in range(0, 77, 5):
        grown.add(first, light[first : first + 5])
    every, some = whole.within(Area(0, 0, width, 77)), grown.within(Area(9, 13, width - 20, 40))
    assert some == pytest.approx(every[13:40, 9 : width - 20], rel=1e-4)


def grainy(height: int, width: int) -> Layers:
    """A lit ball over a backdrop, with grain."""
    rng = np.random.default_rng(7)
    y, x = np.mgrid[:height, :width]
    ball = (np.hypot(y - height / 2, x - width / 2) < height / 3)[..., None]
    light = np.where(ball, 300 + 400 * (x / width)[..., None], 0.0) * rng.gamma(4.0, 0.25, (height, width, 3))
    behind = np.where(ball, 0.0, 600 * (1 - 0.4 * (y / height)[..., None])) * np.ones(3)
    normal = np.where(ball, np.float32([0, 0, 1]), np.float32([0, 0, 0]))
    albedo = np.where(ball, np.float32(0.6), np.float32(0.9)) * np.ones(3)
    return Layers(*(np.asarray(one, np.float32) for one in (light + behind, albedo, normal, behind)))


def part_of(layers: Layers, area: Area) -> Layers:
    rows, columns = slice(area.top, area.bottom), slice(area.left, area.right)
    return Layers(*(one[rows, columns] for one in (layers.color, layers.albedo, layers.normal, layers.backdrop)))


def test_blocks_without_grain_fit_together(monkeypatch) -> None:
    """The finished picture is that of cleaning it at once, and no seam stands out of it."""
    layers = grainy(340, 460)
    whole = finishing.finish(denoise(layers), Finish()).astype(int)
    monkeypatch.setattr(blocks, "IN_ONE", 1000)
    monkeypatch.setattr(blocks, "BAND", 256)
    monkeypatch.setattr(blocks, "BLOCK", 256)
    sketch = Layers(*(shrunk(one, 16) for one in (layers.color, layers.albedo, layers.normal, layers.backdrop)))
    assert rows_of_blocks((460, 340)) == [[0, 1], [2, 3]]
    made = Clean(np.zeros_like(layers.color), np.zeros_like(layers.color))
    for area in blocks_of((460, 340)):
        block = cleaned_block((460, 340), area, lambda area: part_of(layers, area), scales_of(sketch), "best")
        here = area.inside(Area(0, 0, 460, 340))
        made.color[here], made.backdrop[here] = block.color, block.backdrop
    difference = np.abs(finishing.finish(made, Finish()).astype(int) - whole)
    assert difference.mean() < 0.25 and np.quantile(difference, 0.999) <= 4
    seam = np.abs(difference[:, 254:258]).mean()
    assert seam < 3 * difference.mean() + 0.1


def test_what_shows_nothing_but_the_backdrop_is_not_cleaned(monkeypatch) -> None:
    """It is exact as it is, and the time of a large picture goes to where something is."""
    behind = np.linspace(100, 900, 40 * 50 * 3, dtype=np.float32).reshape(40, 50, 3)
    nothing = np.zeros_like(behind)
    monkeypatch.setattr(sys.modules[denoise.__module__], "_filter", lambda *_: pytest.fail("it was cleaned"))
    found = denoise(Layers(behind, nothing, nothing, behind))
    assert not found.color.any() and found.backdrop == pytest.approx(behind * exposure_scale(REFERENCE_EV))
    with pytest.raises(pytest.fail.Exception):
        denoise(Layers(behind, nothing, nothing + np.float32([0, 0, 1]), behind))


def test_png_of_many_parts_is_read_by_others(clean) -> None:
    """Pillow and OpenCV; with 8 and 16 bits, clear and not, words before the pixels."""
    for kind, ground in ((np.uint8, None), (np.uint16, GROUND)):
        whole, stream = encoded(clean, LOOK, kind, ground), io.BytesIO()
        write_png(stream, clean.size, (whole[k : k + 9] for k in range(0, 160, 9)), {"Scene": "é"})
        data = stream.getvalue()
        assert data.index(b"Scene") < data.index(b"IDAT") and Image.open(io.BytesIO(data)).text["Scene"] == "é"
        read = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
        np.testing.assert_array_equal(read[..., [2, 1, 0, *range(3, whole.shape[2])]], whole)


def test_a_negative_is_true_to_the_light_and_so_is_a_part_of_it(clean, tmp_path, monkeypatch) -> None:
    path = tmp_path / "negative.exr"
    monkeypatch.setattr(finishing, "AT_ONCE", 33 * 120)
    write_negative(path, clean)
    kept = Negative(path)
    assert kept.size == clean.size
    again = kept.rows(20, 90)
    assert again.color == pytest.approx(clean.color[20:90], rel=1e-3, abs=1e-2)
    assert np.abs(encoded(kept, LOOK, np.uint8).astype(int) - encoded(clean, LOOK, np.uint8)).max() <= 2
    part = Cut(kept, Area(10, 20, 50, 90))
    assert part.size == (40, 70)
    np.testing.assert_array_equal(part.rows(3, 8).color, again.color[3:8, 10:50])
    np.testing.assert_array_equal(part.rows(3, 8).bare, clean.bare[23:28, 10:50])


def test_scene_linear_files_are_the_same_in_one_part_and_in_many(clean, tmp_path, monkeypatch) -> None:
    more = lambda first, last: {"part.Y": np.arange(first, last, dtype=np.float32)[:, None].repeat(120, axis=1)}  # noqa: E731
    files = []
    for at_once in (10**9, 11 * 120):
        monkeypatch.setattr(finishing, "AT_ONCE", at_once)
        files.append(tmp_path / f"{at_once}.exr")
        write_scene_linear(files[-1], clean, LOOK, {}, half=True, more=more, single=frozenset({"part.Y"}))
    assert files[0].read_bytes() == files[1].read_bytes()


def test_what_is_looked_at_is_smaller_than_a_large_still(clean, monkeypatch) -> None:
    monkeypatch.setattr("usual_lamp.core.picture.finished.LOOKED_AT", 60)
    monkeypatch.setattr(finishing, "AT_ONCE", 7 * 120)
    png, flat = io.BytesIO(), Finish()
    seen = finish_into(png, clean, flat, {}, None)
    assert Image.open(png).size == clean.size
    small = np.asarray(Image.open(io.BytesIO(seen.jpeg)), float)
    assert small.shape == (53, 40, 3)
    assert small.mean() == pytest.approx(encoded(clean, flat, np.uint8).mean(), rel=0.02)


@pytest.fixture(scope="module")
def ball():
    """A picture of six tiles, four of them cut off by its edge."""
    camera = Camera(position=(0, -60, 10), target=(0, 0, 0))
    return world({"ball": sphere(9.0, 48)}, [appearance()], camera, EVEN, (600, 270), floor=True)


def test_a_picture_of_tiles_is_the_whole_one(ball, tmp_path) -> None:
    """Also where its sums went to a folder, and any area and a sketch of it."""
    *_, (_, sums) = trace_still(ball, 2)
    kept = ScratchTiles(tmp_path, most=256 * 256 * CHANNELS * 4)
    assert [share for share, _ in trace_into(kept, ball, 2)][-1] == 1.0
    assert 0 < len(list(tmp_path.glob("*.npy"))) < len(tiles(600, 270))
    picture = TiledPicture(600, 270, lambda number: kept[number] / np.float32(2))
    area = Area(200, 100, 530, 270)
    np.testing.assert_array_equal(picture.layers(area).color, sums[100:270, 200:530, :3] / 2)
    sketch = picture.sketch(2)
    assert sketch.normal == pytest.approx(shrunk(sums[..., 6:9] / 2, 2), abs=1e-5)


def test_a_survey_in_blocks_is_the_whole_one(ball, tmp_path, monkeypatch) -> None:
    whole, made = tmp_path / "whole.exr", tmp_path / "made.exr"
    write_survey(whole, survey_still(ball, 2))
    monkeypatch.setattr(blocks, "IN_ONE", 1000)
    monkeypatch.setattr(blocks, "BAND", 256)
    monkeypatch.setattr(blocks, "BLOCK", 256)
    files = {}
    for number, area in enumerate(blocks_of((600, 270))):
        around = area.grown(32, (600, 270))
        files[area] = tmp_path / f"{number}.exr"
        write_survey(files[area], surveyed(ball, around, 2), area.inside(around))
    rows = [[path for area, path in files.items() if area.top == top] for top in (0, 256)]
    assert [len(row) for row in rows] == [3, 3]
    join_files(made, (600, 270), rows)
    for name, values in SurveyFile(whole).file.rows(0, 270).items():
        joined = SurveyFile(made).file.rows(0, 270)[name]
        np.testing.assert_allclose(joined, values, atol=0.03 if name == "occlusion.Y" else 0)
    area = Area(100, 30, 420, 260)
    np.testing.assert_array_equal(SurveyFile(made).bare(area), SurveyFile(whole).bare(area))


def test_sizes_of_what_is_looked_at_and_read() -> None:
    assert [sketch_step(*size) for size in ((900, 700), (1280, 960), (3840, 2160), (7680, 4320), (16384, 16384))] == [
        1, 2, 2, 4, 16,
    ]  # fmt: skip
    assert stride_for(1000 * 1000) == 1 and stride_for(16384 * 16384) == 17
    with pytest.raises(TooLarge, match="PNG, JPEG or TIFF"):
        require_webp(16384, 100)
    require_webp(7680, 4320)


def test_grain_is_told_from_some_pixels_as_from_all() -> None:
    """Every third row and column of independent samples: within the spread of so many."""
    rng = np.random.default_rng(2)
    means, told = {}, []
    for count in (2, 4, 8):
        means[count] = rng.gamma(count, 1.0, (300, 300, 3)).astype(np.float32)
    for step in (1, 3):
        meter = GrainMeter()
        for count, sums in means.items():
            meter.read(0, sums[::step, ::step], count)
        told.append(meter.grain(8))
    assert told[1] == pytest.approx(told[0], rel=0.03)


def test_a_large_picture_is_developed_like_a_small_one(tmp_path, monkeypatch) -> None:
    """The way of a still is that of `develop`, which the desk and the samples take; in blocks, what is bare is told of
    each where it is."""
    layers, path = grainy(90, 120), tmp_path / "negative.exr"
    sketch = lambda: pytest.fail("it is small")  # noqa: E731
    clean_into(path, (120, 90), lambda area: part_of(layers, area), sketch, "best")
    made, direct = encoded(Negative(path), Finish(), np.uint8), develop(layers, Finish())
    assert np.abs(made.astype(int) - direct).max() <= 1, "half numbers"
    monkeypatch.setattr(blocks, "IN_ONE", 1000)
    monkeypatch.setattr(blocks, "BLOCK", 64)
    bare = (np.arange(90)[:, None] + np.arange(120)) % 3 == 0
    told = lambda area: bare[area.inside(Area(0, 0, 120, 90))]  # noqa: E731
    clean_into(path, (120, 90), lambda area: part_of(layers, area), lambda: layers, "quick", told)
    assert Negative(path).size == (120, 90)
    np.testing.assert_array_equal(Negative(path).rows(0, 90).bare, bare)


def test_an_area_ends_with_the_picture_and_knows_its_place() -> None:
    area = Area(10, 20, 40, 60)
    assert area.size == (30, 40)
    assert area.grown(15, (50, 100)) == (0, 5, 50, 75) and Area(30, 0, 90, 9).grown(0, (50, 100)) == (30, 0, 50, 9)
    picture = np.arange(100 * 50).reshape(100, 50)
    around = area.grown(5, (50, 100))
    inner = picture[around.top : around.bottom, around.left : around.right][area.inside(around)]
    np.testing.assert_array_equal(inner, picture[20:60, 10:40])


def test_blocks_cover_a_picture_once_and_lie_row_by_row() -> None:
    for size in ((16384, 16384), (7681, 4321), (16384, 500), (2000, 3001)):
        found = blocks_of(size)
        assert sum(area.size[0] * area.size[1] for area in found) == size[0] * size[1]
        assert all(area.left % 256 == 0 and area.top % 256 == 0 for area in found), "whole tiles"
        rows = rows_of_blocks(size)
        assert [number for row in rows for number in row] == list(range(len(found)))
        for row in rows:
            assert sum(found[number].size[0] for number in row) == size[0]
            assert len({(found[number].top, found[number].bottom) for number in row}) == 1


def test_scales_are_those_of_middle_grey_whatever_the_size_of_the_sketch() -> None:
    """A quarter of all light is twice as bright: the logarithmic mean says so; what has no light does not count."""
    light = np.full((64, 64, 3), 90.0, np.float32)
    light[:32, :32] = 180.0
    nothing = np.zeros_like(light)
    told = scales_of(Layers(light, light, light, nothing))
    assert told.backdrop is None and told.color == pytest.approx(0.18 / (90.0 * 2**0.25), rel=1e-5)
    small = Layers(*(shrunk(one, 16) for one in (light, light, light, light)))
    assert scales_of(small).backdrop == pytest.approx(told.color, rel=1e-5)
    dark = light.copy()
    dark[32:] = 0.0
    assert scales_of(Layers(dark, light, light)).color == pytest.approx(0.18 / (90.0 * 2**0.5), rel=1e-5)
    assert scales_of(Layers(nothing, light, light)) == (1.0, None)
