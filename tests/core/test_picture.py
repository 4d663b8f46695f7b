"""Tone curve, encoding, files."""

import io

import colour
import numpy as np
import pytest
from PIL import Image

from usual_lamp.core.camera import Finish, exposure_scale, white_matrix
from usual_lamp.core.camera.finish import RGB_TO_XYZ, chromaticity
from usual_lamp.core.picture import Clean, FastDenoiser, Layers, denoise, develop, finish, to_png
from usual_lamp.core.picture.judging import (
    CLIPPED,
    DROWNED,
    RAMP,
    false_colors,
    luminance,
    outline,
    scale_ends,
)
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
    assert layers.halved().color.shape == (1, 1, 3)


def test_kept_denoiser_is_the_fast_one() -> None:
    rng = np.random.default_rng(5)
    kept = FastDenoiser(24, 40)
    for _ in range(2):
        layers = Layers(*(rng.random((24, 40, 3), dtype=np.float32) for _ in range(4)))
        ours, other = kept(layers), denoise(layers, fast=True)
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


@pytest.mark.parametrize("fast", [True, False])
def test_the_edge_of_a_picture_is_as_clean_as_its_middle(fast: bool) -> None:
    rng = np.random.default_rng(9)
    color = rng.gamma(4.0, 25.0, (64, 64, 3)).astype(np.float32)
    clean = denoise(Layers(color, np.full_like(color, 0.7), np.full_like(color, 0.5)), fast).color
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
