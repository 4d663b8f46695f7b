"""Decals as they come out in a finished picture: codes that scanners read, colours that were specified."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
import zxingcpp

from core.test_decals import tube
from core.test_layers import ABOVE, EVEN, laid
from core.test_patch_chart import EV, LIGHT
from core.test_trace import appearance, color, square, world
from usual_lamp.core.appearance import SHELF, hex_to_linear
from usual_lamp.core.appearance.color_difference import ciede2000, linear_to_lab
from usual_lamp.core.camera import Camera, Finish, exposure_scale
from usual_lamp.core.decals import CodeDrawing, draw
from usual_lamp.core.picture import Clean, finish
from usual_lamp.core.picture.read import read_picture
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.trace.world.atlas import LEVELS, Atlas, coarser
from usual_lamp.core.trace.world.geometry import PieceKey
from usual_lamp.core.trace.world.kept import Kept
from usual_lamp.core.trace.world.world import World

BESIDE = Camera(position=(5, -5, 160), target=(0, 0, 0), focal_length=60)
PATCHES = ("#C83C32", "#2E7D4F", "#2F5FA8", "#F2C230", "#B8B8B8", "#303030")
"""Inks; no ink is as white as #FFFFFF, which the curve would bring down."""
PIXELS = 320
TEXT = "DP40-0017"


def finished(drawing: CodeDrawing, form: str) -> np.ndarray:
    """8-bit sRGB of a printed code on a white sheet that is seen askew, or round a white cylinder of 20 mm radius."""
    made = draw(drawing)
    picture = read_picture(made.png, color=True)
    body, radius = square(30.0), 0.0
    body.positions[:] = body.positions[:, [0, 2, 1]] - [0, 20.0, 0]
    body.normals[:] = (0, -1, 0)
    if form == "cylinder":
        body, radius = tube(20.0, 60.0), 20.0
    camera = Camera(position=(45.0, -160.0, 35.0), target=(0, -20.0, 0), focal_length=140)
    white = appearance(base_color=(0.85, 0.85, 0.85), specular_roughness=0.4)
    w = world({"body": body}, [white], camera, EVEN, (PIXELS, PIXELS))
    on = PictureOnPart(
        picture="p", printed=True, front_only=True, center=(0, -20, 0), right=(1, 0, 0), up=(0, 0, 1),
        width=made.width, height=made.height, depth=2.0, radius=radius,
    )  # fmt: skip
    part = w.inputs.parts[0].model_copy(update={"pictures": (on,)})
    scene = World(w.inputs.model_copy(update={"parts": [part]}), w.mesh_of, EVEN, lambda *_: picture)
    light = color(scene, 16) / 100 / exposure_scale(EV)
    return finish(Clean(light.astype(np.float32), None), Finish(exposure=EV))


@pytest.mark.parametrize(("form", "module"), [("sheet", 0.9), ("cylinder", 0.5)])
def test_codes_in_a_still_are_read(form: str, module: float) -> None:
    """ISO/IEC 18004 by OpenCV, ISO/IEC 15417 by ZXing; seen from 18 degrees beside and 14 above. OpenCV does not read a
    code that goes farther round than this one's 42 degrees."""
    found, _, _ = cv2.QRCodeDetector().detectAndDecode(finished(CodeDrawing(text=TEXT, module=module), form))
    assert found == TEXT
    bars = zxingcpp.read_barcode(finished(CodeDrawing(kind="code128", text="DP40", module=0.35, height=12.0), form))
    assert bars is not None and (bars.text, bars.format) == ("DP40", zxingcpp.BarcodeFormat.Code128)


def test_printed_colours_are_those_specified() -> None:
    """Six patches printed on white paint in neutral light: CIEDE2000 below 2 each. Under the neutral curve, which takes
    off the gloss that lies over them, as `test_patch_chart` has it."""
    picture = np.ones((1, 6, 4), np.float32)
    picture[0, :, :3] = [hex_to_linear(patch) for patch in PATCHES]
    light = np.full((16, 32, 3), LIGHT, np.float32)
    scene = laid(picture.repeat(16, axis=1), SHELF["satin-white"], ABOVE, light, printed=True)
    seen = finish(Clean(color(scene, 256).astype(np.float32), None), Finish(exposure=EV))
    columns = [10 + int((k + 0.5) * 20 / 6) for k in range(6)]
    patches = read_picture(cv2.imencode(".png", seen[..., ::-1])[1].tobytes(), color=True)[18:22, columns, :3].mean(
        axis=0
    )
    apart = ciede2000(linear_to_lab(patches), linear_to_lab(picture[0, :, :3].astype(float)))
    assert apart.max() < 2.0, dict(zip(PATCHES, apart.round(2), strict=True))


def fine_print(samples: int) -> np.ndarray:
    """Light of a white sheet with black lines 0.025 mm wide and as far apart, 11 to a pixel."""
    stripes = np.ones((512, 512, 4), np.float32)
    stripes[:, :, :3] = np.where(np.arange(512) % 2, 0.8, 0.03)[:, None]
    body = square(30.0)
    body.positions[:] = body.positions[:, [0, 2, 1]] - [0, 20.0, 0]
    body.normals[:] = (0, -1, 0)
    camera = Camera(position=(45.0, -160.0, 35.0), target=(0, -20.0, 0), focal_length=140)
    w = world({"body": body}, [appearance(specular_weight=0.0)], camera, EVEN, (160, 160))
    on = PictureOnPart(
        picture="p", printed=True, center=(0, -20, 0), right=(1, 0, 0), up=(0, 0, 1), width=12.8, height=12.8, depth=2.0
    )
    part = w.inputs.parts[0].model_copy(update={"pictures": (on,)})
    scene = World(w.inputs.model_copy(update={"parts": [part]}), w.mesh_of, EVEN, lambda *_: stripes)
    return color(scene, samples)[60:100, 60:100, 0] / 100


def test_print_too_fine_for_the_picture_is_grey_from_the_first_samples() -> None:
    seen = fine_print(4)
    assert seen.mean() == pytest.approx((0.8 + 0.03) / 2, rel=0.02)
    assert seen.std() < 0.12 * seen.mean(), "four samples of black and white alone differ by 0.46 of it"


def test_coarser_levels_are_means_and_clear_texels_bring_no_colour() -> None:
    image = np.zeros((3, 5, 4), np.float32)
    image[..., 0] = 1.0
    image[:2, 0] = (0.0, 1.0, 0.0, 1.0)
    image[2, 4] = (0.0, 0.0, 1.0, 0.5)
    levels = list(coarser(image))
    assert [level.shape[:2] for level in levels] == [(3, 5), (2, 3), (1, 2), (1, 1)]
    assert levels[1][0, 0] == pytest.approx((0.0, 1.0, 0.0, 0.5)), "what is clear counts for nothing"
    assert levels[1][1, 2] == pytest.approx((0.0, 0.0, 1.0, 0.5)), "at the border the last texel goes on"
    assert levels[1][1, 1] == pytest.approx((1.0, 0.0, 0.0, 0.0)), "all clear: colours as they lie there"


def test_an_atlas_grows_without_copying_until_its_room_is_full(monkeypatch) -> None:
    monkeypatch.setattr("usual_lamp.core.trace.world.atlas.SPARE_TEXELS", 30)
    read = []

    def picture(name: str, _: bool) -> np.ndarray:
        read.append(name)
        return np.full((4, 4, 4), float(ord(name)), np.float32)

    def colors(atlas: Atlas) -> dict[str, list[float]]:
        """Of each picture's levels: 16, 4 and 1 texels."""
        texels, starts = atlas.texels.numpy().reshape(-1, 4), atlas.starts.numpy().reshape(-1, LEVELS)
        return {name: list(texels[starts[at][[0, 1, 2, -1]], 0]) for (name, _), at in atlas.numbers.items()}

    one = Atlas({("a", True)}, picture)
    two = Atlas({("b", True)}, picture, one)
    assert two.room is one.room and colors(one) == {"a": [97.0] * 4}
    assert colors(two) == {"a": [97.0] * 4, "b": [98.0] * 4}
    three = Atlas({("c", True), ("b", True)}, picture, two)
    assert colors(three) == {"c": [99.0] * 4, "b": [98.0] * 4}, "what nobody wants now has gone"
    assert three.room is not one.room and three.room.filled == 2 * 21 and read == ["a", "b", "c"], "nothing read twice"
    assert colors(one) == {"a": [97.0] * 4}, "older pictures of the lamp go on"


def test_worlds_of_one_process_share_what_was_read_of_parts_and_pictures() -> None:
    body, read = square(30.0), []
    chart = {"a": np.full((4, 4, 4), 0.25, np.float32), "b": np.ones((8, 8, 4), np.float32)}

    def noted(name: str, _: bool) -> np.ndarray:
        read.append(name)
        return chart[name]

    plain = world({"body": body}, [appearance(specular_weight=0.0)], BESIDE, EVEN, (16, 16))
    kept = Kept(plain.mesh_of)
    for names in ("a", "b", "ba", "a"):
        on = tuple(
            PictureOnPart(picture=n, center=(x, 0, 0), right=(1, 0, 0), up=(0, 1, 0), width=30, height=60, depth=2.0)
            for n, x in zip(names, (-15, 15), strict=False)
        )
        part = plain.inputs.parts[0].model_copy(update={"pictures": on})
        inputs = plain.inputs.model_copy(update={"parts": [part]})
        shared = World(inputs, plain.mesh_of, EVEN, noted, kept=kept)
        alone = World(inputs, plain.mesh_of, EVEN, lambda name, _: chart[name])
        np.testing.assert_array_equal(color(shared, 4), color(alone, 4))
    assert read == ["a", "b"]
    assert kept.piece(PieceKey("body", plain.inputs.parts[0].matrix, (), True), pytest.fail) is not None
