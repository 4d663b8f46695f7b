"""Tone curve, encoding, files."""

import io

import colour
import cv2
import numpy as np
import pytest
from PIL import Image, ImageCms

from usual_lamp.core.appearance import hex_to_linear
from usual_lamp.core.camera import Finish, exposure_scale, white_matrix
from usual_lamp.core.camera.finish import RGB_TO_XYZ, chromaticity
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.picture import (
    Clean,
    FastDenoiser,
    Layers,
    cleaned,
    denoise,
    develop,
    finish,
    finish_on_nothing,
    to_jpeg,
    to_png,
    to_webp,
)
from usual_lamp.core.picture.develop import Effort, shrunk
from usual_lamp.core.picture.encoders import write_tiff
from usual_lamp.core.picture.finishing import GREY, encoded
from usual_lamp.core.picture.judging import (
    CLIPPED,
    DROWNED,
    RAMP,
    false_colors,
    luminance,
    metered_exposure,
    outline,
    scale_ends,
)
from usual_lamp.core.picture.lens_effects import falloff, with_glare
from usual_lamp.core.picture.negative import Negative, write_negative
from usual_lamp.core.picture.tone import filmic, khronos_neutral, srgb_encode
from usual_lamp.core.trace.jobs.grain import GrainMeter

LOOK = Finish(exposure=8.4)
"""White at about 400 cd/m²."""


def test_srgb_transfer_values() -> None:
    """IEC 61966-2-1, and the familiar 18 percent grey at 118."""
    linear = np.array([0.0, 0.0031308, 0.18, 0.214041, 1.0, 2.0], np.float32)
    assert srgb_encode(linear) == pytest.approx([0, 0.04045, 0.4614, 0.5, 1, 1], abs=2e-4)
    assert round(float(srgb_encode(np.float32([0.18]))[0]) * 255) == 118


def reference_neutral(color: np.ndarray) -> np.ndarray:
    """The sample implementation of the Khronos PBR Neutral specification 1.0, transcribed for one colour."""
    start, desaturation = 0.8 - 0.04, 0.15
    x = color.min()
    offset = x - 6.25 * x * x if x < 0.08 else 0.04
    color = color - offset
    peak = color.max()
    if peak < start:
        return color
    d = 1 - start
    new = 1 - d * d / (peak + d - start)
    color = color * new / peak
    g = 1 - 1 / (desaturation * (peak - new) + 1)
    return color * (1 - g) + new * g


def test_neutral_curve_follows_its_specification() -> None:
    colors = np.random.default_rng(1).gamma(0.7, 0.8, (200, 3)).astype(np.float32)
    assert khronos_neutral(colors) == pytest.approx(np.array([reference_neutral(c) for c in colors]), abs=1e-5)
    assert khronos_neutral(np.float32([[500, 500, 500]])).max() <= 1.0


def test_filmic_curve_follows_its_publication() -> None:
    """Hable's own listing, worked out here for a few values; white is reached at 11.2 before his bias of 2."""
    a, b, c, d, e, f = 0.15, 0.5, 0.1, 0.2, 0.02, 0.3
    x = 2.0 * np.array([0.0, 0.18, 1.0, 5.6])
    curve = lambda v: (v * (a * v + c * b) + d * e) / (v * (a * v + b) + d * f) - e / f  # noqa: E731
    found = filmic(np.float32([0.0, 0.18, 1.0, 5.6]))
    assert found == pytest.approx(curve(x) / curve(11.2), abs=1e-5) and found[-1] == pytest.approx(1.0)


@pytest.mark.parametrize("kelvin", [2000.0, 2856.0, 3500.0, 5000.0, 6504.0, 9300.0])
def test_white_balance_makes_light_of_that_colour_grey(kelvin: float) -> None:
    """Chromaticities against colour-science: Planck's law below 3000 K, the CIE's daylight from 4000 K."""
    x, y = chromaticity(kelvin)
    if kelvin < 3000:
        theirs = colour.XYZ_to_xy(colour.sd_to_XYZ(colour.sd_blackbody(kelvin), method="Integration"))
        assert (x, y) == pytest.approx(tuple(theirs), abs=2e-3)
    elif kelvin >= 4000:
        assert (x, y) == pytest.approx(tuple(colour.temperature.CCT_to_xy_CIE_D(kelvin)), abs=2e-4)
    light = np.linalg.inv(RGB_TO_XYZ) @ [x / y, 1.0, (1 - x - y) / y]
    shown = white_matrix(kelvin) @ light
    assert shown == pytest.approx([1.0, 1.0, 1.0], abs=0.01)
    theirs = colour.adaptation.matrix_chromatic_adaptation_VonKries(
        [x / y, 1.0, (1 - x - y) / y], RGB_TO_XYZ @ [1, 1, 1], transform="Bradford"
    )
    ours = RGB_TO_XYZ @ white_matrix(kelvin) @ np.linalg.inv(RGB_TO_XYZ)
    assert ours == pytest.approx(theirs, rel=1e-3, abs=1e-3)


def test_denoised_grain_is_gone_and_the_mean_stays() -> None:
    noise = np.random.default_rng(2).exponential(100, (64, 96, 3)).astype(np.float32)
    flat = np.full_like(noise, 0.5)
    layers = Layers(noise, flat, np.zeros_like(noise))
    rough = develop(layers, LOOK, quality="none").astype(float)
    for quality in ("fast", "high"):
        clean = develop(layers, LOOK, quality=quality).astype(float)
        assert clean.std() < 0.25 * rough.std()


def test_png_is_srgb_and_keeps_its_words() -> None:
    pixels = np.arange(4 * 5 * 3, dtype=np.uint8).reshape(4, 5, 3)
    data = to_png(pixels, {"Engine": "1"})
    image = Image.open(io.BytesIO(data))
    assert (np.array(image) == pixels).all()
    assert b"sRGB" in data and image.text["Engine"] == "1"


def test_counts_per_pixel_divide_sums() -> None:
    sums = np.ones((2, 2, 12), np.float32) * 8
    layers = Layers.from_sums(sums, np.array([[1, 2], [4, 0]]))
    assert layers.color[..., 0].tolist() == [[8, 4], [2, 8]]


def test_a_quick_look_is_the_means_of_blocks() -> None:
    image = np.random.default_rng(4).random((9, 13, 3), dtype=np.float32)
    small = shrunk(image, 4)
    assert small.shape == (2, 3, 3) and small[1, 2] == pytest.approx(image[4:8, 8:12].mean(axis=(0, 1)), rel=1e-5)
    assert shrunk(image, 1) is image


def test_kept_denoiser_is_the_fast_one() -> None:
    rng = np.random.default_rng(5)
    kept = FastDenoiser(24, 40)
    for _ in range(2):
        layers = Layers(*(rng.random((24, 40, 3), dtype=np.float32) for _ in range(4)))
        ours, other = kept(layers), denoise(layers, "live")
        np.testing.assert_allclose(ours.color, other.color, rtol=1e-3, atol=1e-4)
        np.testing.assert_allclose(ours.backdrop, other.backdrop, rtol=1e-3, atol=1e-4)


def test_grain_meter_on_independent_samples() -> None:
    """Of white noise the error is known: sigma / sqrt(n). Tiles add up; an interruption loses little."""
    rng = np.random.default_rng(3)
    meter, sums = GrainMeter(tiles=2), np.zeros((2, 40, 40, 3))
    for n in range(1, 65):
        sums += rng.normal(5.0, 1.0, sums.shape)
        for tile in (0, 1):
            meter.read(tile, sums[tile], n)
        if n == 16:
            meter = GrainMeter(2, meter.readings)
    assert meter.grain(64) == pytest.approx(1 / 5 / 8, rel=0.1)
    assert meter.samples_for(1 / 5 / 16) == pytest.approx(256, rel=0.25)


@pytest.mark.parametrize("effort", ["live", "quick", "best"])
def test_the_edge_of_a_picture_is_as_clean_as_its_middle(effort: Effort) -> None:
    rng = np.random.default_rng(9)
    color = rng.gamma(4.0, 25.0, (64, 64, 3)).astype(np.float32)
    clean = denoise(Layers(color, np.full_like(color, 0.7), np.full_like(color, 0.5)), effort).color
    edge = np.concatenate([clean[0], clean[-1], clean[:, 0], clean[:, -1]])
    assert edge.std() < 2.5 * clean[16:48, 16:48].std()


def lit_square(inside: float, behind: float) -> Clean:
    """A square of that luminance (cd/m²) before a backdrop of that shown value (linear)."""
    color, backdrop = np.zeros((60, 80, 3), np.float32), np.full((60, 80, 3), behind, np.float32)
    color[20:40, 30:50], backdrop[20:40, 30:50] = inside, 0.0
    return Clean(color, backdrop)


def test_false_colors_stand_for_cd_per_square_metre() -> None:
    look = Finish()
    low, high = scale_ends(look)
    assert np.log2(high / low) == pytest.approx(10.0)
    for step, color in enumerate(RAMP):
        asked = low * 2.0 ** (step * 10 / (len(RAMP) - 1))
        if asked * exposure_scale(look.exposure) < 0.9 and step > 1:
            assert false_colors(lit_square(asked, 0.5), look)[30, 40] == pytest.approx(color, abs=1), step
    assert tuple(false_colors(lit_square(1e6, 0.5), look)[30, 40]) == CLIPPED
    assert tuple(false_colors(lit_square(low / 100, 0.5), look)[30, 40]) == DROWNED
    behind = luminance(lit_square(100.0, 0.5), look)[0, 0]
    assert behind * exposure_scale(look.exposure) == pytest.approx(0.5), "the backdrop as what would be shown so"


def test_an_outline_that_is_lost_is_found() -> None:
    """L* of a grey of 0.5 is 76 (CIE 15:2004)."""
    look = Finish()
    same = 0.5 / exposure_scale(look.exposure)
    shown = finish(lit_square(same, 0.5), look)
    level = shown[30, 40, 0] / 255
    shade = float((level / 12.92) if level <= 0.04045 else ((level + 0.055) / 1.055) ** 2.4)
    assert outline(lit_square(same, shade), look).lost == pytest.approx(1.0)
    found = outline(lit_square(same, shade / 4), look)
    assert (found.lost, found.where) == (0.0, "")
    assert found.over == pytest.approx(outline(lit_square(same, shade), look).over + 2.0, abs=0.01)
    # Grain and mirrored light on a floor are no product.
    grainy = lit_square(same, shade / 4)
    grainy.color[:] += np.random.default_rng(2).uniform(0, 0.02, grainy.color.shape) / exposure_scale(look.exposure)
    assert outline(grainy, look).lost < 0.05
    half = lit_square(same, shade)
    half.backdrop[30:] *= 0.25
    half.backdrop[20:40, 30:50] = 0.0
    found = outline(half, look)
    assert 0.3 < found.lost < 0.7 and found.where == "top"
    assert outline(Clean(half.color, None), look) is None


def plain(value: float, size: tuple[int, int] = (40, 60)) -> Clean:
    """An even picture: share of recorded white at LOOK's exposure, with half of it backdrop."""
    light = np.full((*size, 3), value / exposure_scale(LOOK.exposure), np.float32)
    return Clean(light, None)


@pytest.mark.parametrize("contrast", [0.6, 1.0, 1.7])
def test_contrast_turns_about_middle_grey_and_saturation_about_luminance(contrast: float) -> None:
    """Middle grey stays; a stop above it becomes `contrast` stops. Without saturation all channels are the luminance,
    and with more of it the luminance stays (weights of IEC 61966-2-1, by colour-science)."""
    look = LOOK.model_copy(update={"tone": "linear", "contrast": contrast})
    shown = [finish(plain(value), look)[0, 0, 0] / 255 for value in (GREY, 2 * GREY)]
    wanted = srgb_encode(np.float32([GREY, GREY * 2**contrast]))
    assert shown == pytest.approx(wanted, abs=0.003)
    red = Clean(np.full((4, 4, 3), (0.3, 0.1, 0.05), np.float32) / np.float32(exposure_scale(LOOK.exposure)), None)
    weights = colour.models.RGB_COLOURSPACE_sRGB.matrix_RGB_to_XYZ[1]
    luminances = []
    for saturation in (0.0, 1.0, 1.3):
        linear = colour.models.eotf_sRGB(
            finish(red, LOOK.model_copy(update={"tone": "linear", "saturation": saturation}))[0, 0] / 255
        )
        luminances.append(float(linear @ weights))
        assert np.ptp(linear) == pytest.approx(0.25 * saturation, abs=0.01)
    assert luminances == pytest.approx([luminances[1]] * 3, abs=0.004)


def test_a_vignette_is_as_deep_as_said_at_the_corners() -> None:
    """One EV there, nothing in the middle, and in between cos⁴ of the field angle (natural falloff, any handbook)."""
    light = falloff((400, 300), 1.0)[..., 0]
    assert light[150, 200] == pytest.approx(1.0, abs=1e-4)
    assert light[0, 0] == pytest.approx(0.5, rel=0.01) and light[-1, -1] == pytest.approx(light[0, 0])
    angle = np.arctan(np.tan(np.arccos(0.5**0.25)) * np.hypot(100.5, 0.5) / np.hypot(200, 150))
    assert light[150, 300] == pytest.approx(np.cos(angle) ** 4, rel=1e-3)
    white = Clean(np.zeros((30, 40, 3), np.float32), np.ones((30, 40, 3), np.float32))
    assert finish(white, LOOK.model_copy(update={"vignette": 2.0}))[0, 0, 0] < 150


def test_glare_spreads_light_and_loses_none() -> None:
    """A lamp of one pixel: its light arrives elsewhere, all channels alike, and the sum stays."""
    color = np.zeros((101, 150, 3), np.float32)
    color[50, 70] = 9000.0
    spread = with_glare(color, 0.2)
    assert spread.sum() == pytest.approx(color.sum(), rel=0.01)
    assert spread[50, 70, 0] == pytest.approx(0.8 * 9000, rel=0.12)
    assert spread[50, 90, 0] > 0.05 and spread[50, 75, 0] > spread[50, 90, 0]
    even = np.full((60, 80, 3), 5.0, np.float32)
    assert with_glare(even, 0.5) == pytest.approx(even, rel=1e-3)


def test_sharpening_steepens_edges_and_leaves_what_is_even() -> None:
    step = np.full((20, 40, 3), 0.1, np.float32) / np.float32(exposure_scale(LOOK.exposure))
    step[:, 20:] *= 4
    plain_step, sharp = (finish(Clean(step, None), LOOK.model_copy(update={"sharpening": s}))[10] for s in (0.0, 1.0))
    assert np.ptp(sharp[18:22].astype(int)) > np.ptp(plain_step[18:22].astype(int)) + 20
    assert (sharp[[2, 37]] == plain_step[[2, 37]]).all()


def to_tiff(pixels: np.ndarray) -> bytes:
    """In two parts, neither a whole number of strips."""
    stream, size = io.BytesIO(), (pixels.shape[1], pixels.shape[0])
    write_tiff(stream, size, [pixels[:5], pixels[5:]], pixels.dtype.type, pixels.shape[2])
    return stream.getvalue()


def test_files_are_read_by_others_with_their_pixels_and_profile() -> None:
    """OpenCV and Pillow: 16 bits in PNG and TIFF, transparency, words, and sRGB said in each."""
    pixels = encoded(
        Clean(np.random.default_rng(2).random((24, 31, 3)).astype(np.float32) * 300, None), LOOK, np.uint16
    )
    over = np.concatenate([pixels, np.full((24, 31, 1), 30000, np.uint16)], axis=2)
    for deep in (pixels, over):
        for data in (to_png(deep, {"Software": "Usual Lamp"}), to_tiff(deep)):
            read = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
            assert read.dtype == np.uint16
            assert (read[..., [2, 1, 0, *range(3, deep.shape[2])]] == deep).all()
    png = Image.open(io.BytesIO(to_png(over, {"Software": "Usual Lamp"})))
    assert png.info["srgb"] == 0 and png.text["Software"] == "Usual Lamp"
    small = (pixels >> 8).astype(np.uint8)
    assert (np.asarray(Image.open(io.BytesIO(to_tiff(small)))) == small).all()
    for data in (to_tiff(small), to_webp(small)):
        profile = ImageCms.ImageCmsProfile(io.BytesIO(Image.open(io.BytesIO(data)).info["icc_profile"]))
        assert "sRGB" in ImageCms.getProfileDescription(profile)
    smooth = np.repeat(np.linspace(0, 255, 64).astype(np.uint8)[None, :, None], 40, axis=0).repeat(3, axis=2)
    for data in (to_webp(smooth), to_jpeg(smooth, 92)):
        assert np.asarray(Image.open(io.BytesIO(data)).convert("RGB")).astype(int) == pytest.approx(smooth, abs=6)


def test_a_meter_reads_the_product_and_not_the_backdrop() -> None:
    """A product at 100 cd/m² comes out in middle grey, however bright what lies behind it is."""
    light = np.zeros((40, 60, 3), np.float32)
    light[10:30, 20:40] = 100.0
    for behind in (0.02, 0.9):
        backdrop = np.full((40, 60, 3), behind, np.float32)
        backdrop[10:30, 20:40] = 0.0
        found = metered_exposure(Clean(light, backdrop), LOOK)
        assert found is not None and 100 * exposure_scale(found) == pytest.approx(0.18, abs=0.001)
    assert metered_exposure(Clean(light, None), LOOK) == pytest.approx(found)
    assert metered_exposure(Clean(np.zeros_like(light), None), LOOK) is None


def test_grain_on_bright_ground_leaves_nothing_on_a_transparent_picture() -> None:
    """A step or two of 255 above cream is what denoising leaves; on a dark slide it must not be a white veil. A glint
    of ten steps stays, and so does a faint one on dark ground."""

    def cut(ground: tuple[float, float, float], steps: float) -> np.ndarray:
        below = srgb_encode(np.array(ground, np.float32))
        brighter = colour.models.eotf_sRGB(np.minimum(below + steps / 255, 1.0)).astype(np.float32)
        backdrop = np.broadcast_to(np.array(ground, np.float32), (4, 4, 3)).copy()
        glint = (brighter - backdrop) / np.float32(exposure_scale(LOOK.exposure))
        return finish_on_nothing(Clean(glint, backdrop), LOOK.model_copy(update={"tone": "linear"}), ground)[0, 0]

    cream, dark = hex_to_linear("#F1EBE2"), hex_to_linear("#202020")
    assert cut(cream, 1)[3] <= 1 and cut(cream, 2)[3] <= 8
    assert cut(cream, 10)[3] > 100, "as much white as it takes: 14 steps are left to white"
    assert cut(dark, 3)[3] >= 2


def test_outlines_on_nothing_have_no_specks_of_the_grounds_colour(tmp_path) -> None:
    """Denoising blurs the backdrop's edge over bare ground; told what is bare, nothing is seen there but shadow."""
    ground = hex_to_linear("#F1EBE2")
    backdrop = np.broadcast_to(np.array(ground, np.float32), (3, 4, 3)).copy()
    backdrop[:, 1] *= 0.8
    backdrop[:, 2] *= 0.5
    light = np.zeros_like(backdrop)
    lit = np.array(ground, np.float32) / np.float32(exposure_scale(LOOK.exposure))
    light[:, 1] = lit * 0.2  # what the blur took from the backdrop, the picture has
    look = LOOK.model_copy(update={"tone": "linear"})
    blurred = Clean(light, backdrop)
    told = Clean(light, backdrop, np.ones((3, 4), bool))
    assert finish_on_nothing(blurred, look, ground)[0, 1, 3] > 20
    found = finish_on_nothing(told, look, ground)[0]
    assert found[1, 3] <= 1 and found[0, 3] == 0, "bare"
    assert found[2, 3] > 50 and found[2, :3].max() < 20, "shadow stays, dark and half transparent"
    for clean in (told, blurred):
        write_negative(tmp_path / "negative.exr", clean)
        kept = Negative(tmp_path / "negative.exr").rows(0, 3).bare
        np.testing.assert_array_equal(kept, clean.bare)


def test_beside_an_outline_there_is_no_light_but_the_floors() -> None:
    """Two pictures without grain differ along outlines; over floor and backdrop alone, that is no light."""
    rng = np.random.default_rng(8)
    floor = np.full((24, 32, 3), 400.0, np.float32) * rng.uniform(0.9, 1.1, (24, 32, 1)).astype(np.float32)
    color, backdrop = floor.copy(), floor.copy()
    color[:, 16:], backdrop[:, 16:] = 30.0, 0.0
    up = np.broadcast_to(np.float32([0, 0, 1]), color.shape).copy()
    crisp = lambda image: image.copy()  # noqa: E731

    def ringing(image: np.ndarray) -> np.ndarray:
        """Sharpened along the outline, as a network does it."""
        return image + 0.5 * (image - cv2.GaussianBlur(image, (5, 5), 1.0))

    albedo = np.full_like(color, 0.5)
    albedo[:, 16:] = 0.3
    clean = cleaned(Layers(color, albedo, up, backdrop), crisp, ringing)
    assert np.abs(clean.color[:, :16]).max() == 0 and clean.color[:, 20:] == pytest.approx(30.0)
    assert clean.backdrop is not None
    edge, inside = clean.backdrop[:, 13:16], clean.backdrop[:, 3:13]
    assert edge.max() <= inside.max() < 1.3 * inside.mean()
    assert edge.min() > 0.7 * inside.min(), "it is not darker for that"


def test_a_floor_that_mirrors_something_here_and_there_has_no_outline() -> None:
    """In some pixels its mirror lobe has met the product and in others not; all stay as bright as they are, though the
    only ones that are bare for some way round lie in the shadow."""
    rng = np.random.default_rng(5)
    floor = np.full((40, 60, 3), 400.0, np.float32)
    floor[:, :14] = 80.0
    mirrored = np.where(rng.random((40, 60, 1)) < 0.4, np.float32(25.0), np.float32(0.0))
    mirrored[:, :14] = 0.0
    up = np.broadcast_to(np.float32([0, 0, 1]), floor.shape).copy()
    albedo = np.full_like(floor, 0.6)
    clean = cleaned(Layers(floor + mirrored, albedo, up, floor), np.copy, np.copy)
    scale = np.float32(exposure_scale(REFERENCE_EV))
    assert clean.backdrop is not None
    np.testing.assert_allclose(clean.backdrop, floor * scale, rtol=1e-5)
