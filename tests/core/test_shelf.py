"""The shelf: enough, no two alike, each lawful; made pictures tile; black bodies glow as the CIE says."""

from __future__ import annotations

import io
import itertools

import colour
import numpy as np
import pytest
from demo.first_plates import plate
from PIL import Image
from pydantic import ValidationError

from core.test_surface import albedo_in_uniform_light
from usual_lamp.core.appearance import FAMILIES, SHELF, SYNONYMS, Appearance
from usual_lamp.core.appearance.black_body import black_body
from usual_lamp.core.appearance.color_difference import ciede2000, linear_to_lab
from usual_lamp.core.appearance.first_plates import first_plate
from usual_lamp.core.appearance.made_pictures import MADE, PREFIX, SIZE, picture
from usual_lamp.core.appearance.suggestions import WORDS
from usual_lamp.core.appearance.texture import Texture
from usual_lamp.core.scene.sight import is_clear
from usual_lamp.core.trace.surface.table import Kinds


def shown(a: Appearance) -> tuple[float, float, float]:
    p = a.params
    return p.emission_color if p.emission_luminance else p.transmission_color if p.transmission_weight else p.base_color


def lobes(a: Appearance) -> tuple[object, ...]:
    """What two samples share when only their colour could tell them apart: gloss in steps that the eye sees."""
    p = a.params
    metal, film = p.base_metalness > 0.5, (p.thin_film_weight > 0, p.thin_film_thickness)
    return (Kinds.of(p), metal, film, p.geometry_thin_walled, round(p.specular_roughness * 8), a.textures)


def test_there_is_what_an_engineer_looks_for() -> None:
    assert len(SHELF) >= 90 and {a.family for a in SHELF.values()} == set(FAMILIES)
    assert sum(name.startswith("anodised-") for name in SHELF) >= 6
    asked = "brushed blasted cast plated polished milky clear tinted frosted flake powder knurl leather carbon oak foam"
    everything = [f"{a.name} {SYNONYMS[name]}".lower() for name, a in SHELF.items()]
    for word in [*asked.split(), "stainless", "pmma", "gasket", "led", "label", "eloxal"]:
        assert any(word in text for text in everything), word
    assert {sample for _, sample in WORDS} <= set(SHELF)


def test_no_two_are_alike() -> None:
    """CIEDE2000 under 2 with the same lobes and textures counts as alike."""
    for one, two in itertools.combinations(SHELF.values(), 2):
        if lobes(one) == lobes(two):
            lab = linear_to_lab(np.array([shown(one), shown(two)]))
            assert float(ciede2000(lab[:1], lab[1:])[0]) >= 2, (one.id, two.id)


def test_no_sample_returns_more_light_than_it_gets() -> None:
    """White furnace over every sample as it is, at normal incidence and towards the rim (kept light, one channel)."""
    for name in list(SHELF)[::4]:
        params = SHELF[name].params.model_copy(update={"subsurface_weight": 0.0, "emission_luminance": 0.0})
        for cosine in (1.0, 0.2):
            assert albedo_in_uniform_light(params.model_dump(), cosine) <= 1.006, (name, cosine)


@pytest.mark.parametrize("family", FAMILIES)
def test_every_family_is_white_when_its_colours_are(family: str) -> None:
    """White furnace with every colour set to 1: 0.98 to 1.00, towards the viewer and towards the rim."""
    white = dict.fromkeys(
        ("base_color", "specular_color", "coat_color", "fuzz_color", "transmission_color"), (1.0,) * 3
    )
    plain = {"base_conductor": None, "subsurface_weight": 0.0, "emission_luminance": 0.0, "thin_film_weight": 0.0}
    samples = [a for a in SHELF.values() if a.family == family]
    for sample in samples[:: max(1, len(samples) // 4)]:
        params = sample.params.model_dump() | white | plain | {"base_weight": 1.0, "specular_weight": 1.0}
        for cosine in (1.0, 0.2):
            assert 0.98 <= albedo_in_uniform_light(params, cosine) <= 1.003, (sample.id, cosine)


@pytest.mark.parametrize("name", MADE)
def test_made_pictures_tile_and_are_always_the_same(name: str) -> None:
    """The step over the edge is no larger than steps within."""
    pixels = picture(name)[..., :3].astype(float)
    assert pixels.shape == (SIZE, SIZE, 3) and np.ptp(pixels) > 25
    for axis in (0, 1):
        inside = np.abs(np.diff(pixels, axis=axis)).mean(axis=(1 - axis, 2))
        across = np.abs(pixels.take(0, axis=axis) - pixels.take(-1, axis=axis)).mean()
        assert across <= inside.max() * 1.5 + 1, axis


def test_flakes_cover_what_their_name_says() -> None:
    """Where no flake lies the normal is level: its picture is 128, 128, 255."""
    for cover in (20, 80):
        level = (picture(f"flakes {cover}")[..., :2] == 128).all(axis=-1)
        assert 1 - level.mean() == pytest.approx(cover / 100, abs=0.03)
    for name in ("flakes 0", "flakes 100", "flakes x", "nothing"):
        with pytest.raises(ValidationError, match="no made picture"):
            Texture(picture=PREFIX + name)


def test_textures_of_samples_are_at_the_made_size() -> None:
    for sample in SHELF.values():
        for texture in sample.textures:
            made = MADE[texture.picture.removeprefix(PREFIX)]
            assert (texture.width, texture.height) == (made.width, made.height) and texture.mapping != "file"


@pytest.mark.parametrize("kelvin", [2000, 2700, 4000, 6500, 10_000])
def test_black_bodies_against_the_cie(kelvin: int) -> None:
    """Chromaticity against colour-science's Planckian radiator over the tabulated observer: within 0.004 in u'v'."""
    rgb = np.array(black_body(float(kelvin)))
    xyz = colour.RGB_to_XYZ(rgb, "sRGB", apply_cctf_decoding=False)
    ours = colour.xy_to_Luv_uv(colour.XYZ_to_xy(xyz))
    sd = colour.sd_blackbody(kelvin, colour.SpectralShape(380, 780, 5))
    theirs = colour.xy_to_Luv_uv(colour.XYZ_to_xy(colour.sd_to_XYZ(sd)))
    assert np.abs(ours - theirs).max() < 0.004
    assert max(rgb) == 1.0
    with pytest.raises(ValueError, match="lies between"):
        black_body(200.0)


def test_one_sees_through_glass_and_holes() -> None:
    seen_through = {name for name, sample in SHELF.items() if is_clear(sample)}
    assert {"steel-perforated", "glass-frosted", "lens-red", "water-clear"} <= seen_through
    assert not {"steel-brushed", "opal-white", "flake-blue", "lit-green"} & seen_through


def test_each_sample_comes_with_its_first_plate() -> None:
    """A changed sample needs a new one: `python -m demo.first_plates`."""
    missing = [name for name, sample in SHELF.items() if first_plate(sample) is None]
    assert missing == []
    changed = SHELF["brass-turned"].params.model_copy(update={"base_color": (0.1, 0.2, 0.3)})
    assert first_plate(SHELF["brass-turned"].model_copy(update={"params": changed})) is None


@pytest.mark.parametrize("name", ["brass-turned", "abs-graphite"])
def test_a_first_plate_is_what_the_tracer_shows(name: str) -> None:
    pictures = (first_plate(SHELF[name]), first_plate(SHELF["anodised-orange"]), plate(SHELF[name], 4))
    kept, other, traced = (np.asarray(Image.open(io.BytesIO(p or b"")).convert("RGB"), float) for p in pictures)
    assert np.abs(traced - kept).mean() < 4.0 < np.abs(traced - other).mean()
