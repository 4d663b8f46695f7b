"""Lightings of a review: edits, old documents, surroundings from outside, and where lamps are put."""

from __future__ import annotations

import math

import numpy as np
import pytest

from usual_lamp.core.appearance import NEUTRAL
from usual_lamp.core.exr import UnreadablePicture, exr_of
from usual_lamp.core.light import LIGHTINGS, directions, irradiance, lamps, panorama, surroundings_map
from usual_lamp.core.light.arranging import (
    SET_NAMES,
    CannotPlace,
    Stand,
    highlight_at,
    new_lamp,
    shadow_at,
    starter_set,
)
from usual_lamp.core.light.lamp_shapes import illuminance
from usual_lamp.core.light.lit_map import with_lamps
from usual_lamp.core.light.rooms import Sky
from usual_lamp.core.light.shining import brightest, turn_to_shine
from usual_lamp.core.light.surroundings import adjusted, blurred, seen_map, shrunk, turned
from usual_lamp.core.scene import (
    EditRefused,
    Lighting,
    Scene,
    SetLamps,
    SetLighting,
    SetLightings,
    SetPanoramas,
    SetShot,
    apply_edit,
    first_scene,
)
from usual_lamp.core.scene.carrying import CarriedLighting
from usual_lamp.core.scene.document import FIRST_LIGHTING, Backdrop, Floor
from usual_lamp.core.scene.light_groups import CannotBalance, balanced
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, ground_of, trace_inputs

LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
KEY = lamps.PanelLamp(name="Key", position=(100, -100, 100))
HASH = "a" * 64


@pytest.fixture(scope="module")
def scene(as1) -> Scene:
    return first_scene(as1.assembly, "rev").model_copy(update={"lightings": {FIRST_LIGHTING: Lighting()}})


def made(scene: Scene, *edits) -> Scene:
    """After these edits; each is taken back and made again on the way, which changes nothing."""
    for edit in edits:
        after, back = apply_edit(scene, edit, ())
        assert apply_edit(after, back, ())[0] == scene
        scene = after
    return scene


def test_lightings_and_lamps_are_edited_by_id(as1, scene) -> None:
    dusk = Lighting(name="Dusk", surroundings="dusk")
    two = made(
        scene,
        SetLamps(lamps={"key": KEY}),
        SetLightings(lightings={"dusk": dusk}),
        SetLamps(id="dusk", lamps={"a": KEY, "b": KEY}),
        SetLamps(id="dusk", lamps={"a": None}),
        SetLighting(lighting=scene.lighting.model_copy(update={"lamps": {"key": KEY}, "turn": 30.0})),
    )
    assert two.lighting.turn == 30 and list(two.lightings["dusk"].lamps) == ["b"]
    shot = two.shots[DEFAULT_SHOT]
    own = made(two, SetShot(id=DEFAULT_SHOT, shot=shot.model_copy(update={"lighting": "dusk"})))
    lit = trace_inputs(as1.assembly, own, own.shots[DEFAULT_SHOT]).lighting
    assert lit.surroundings == "dusk" and trace_inputs(as1.assembly, two, shot).lighting.turn == 30
    with pytest.raises(EditRefused, match="uses that lighting"):
        apply_edit(own, SetLightings(lightings={"dusk": None}), ())
    with pytest.raises(EditRefused, match="Show another one first"):
        apply_edit(two, SetLightings(lightings={two.lit_by: None}), ())
    for wrong in (SetLamps(id="gone", lamps={"a": KEY}), SetLighting(id="gone", lighting=dusk)):
        with pytest.raises(EditRefused, match="not in this review any more"):
            apply_edit(two, wrong, ())
    with pytest.raises(EditRefused, match="at most 64 lamps"):
        apply_edit(two, SetLamps(lamps={f"l{k}": KEY for k in range(65)}), ())
    suns = {f"s{k}": lamps.DistantLamp(name="Sun") for k in range(5)}
    with pytest.raises(EditRefused, match="at most 4 suns"):
        apply_edit(two, SetLamps(lamps=suns), ())
    with pytest.raises(ValueError, match="at most 4 suns"):
        Lighting(lamps=suns)


def test_words_say_what_an_edit_does(scene) -> None:
    lit = made(scene, SetLamps(lamps={"key": KEY}))
    louder = KEY.model_copy(update={"level": 1.0})
    assert {
        SetLamps(lamps={"key": louder}).words(lit): "Change the lamp “Key”",
        SetLamps(lamps={"new": KEY}).words(lit): "Add the lamp “Key”",
        SetLamps(lamps={"key": None}).words(lit): "Remove the lamp “Key”",
        SetLamps(lamps={"a": KEY, "b": KEY}).words(lit): "Add 2 lamps",
        SetLightings(lightings={"x": Lighting(name="Dusk")}).words(lit): "Add the lighting “Dusk”",
        SetLightings(show=lit.lit_by).words(lit): "Use the lighting “Lighting 1”",
        SetPanoramas(panoramas={HASH: "Yard"}).words(lit): "Add the surroundings “Yard”",
    } == {words: words for words in (
        "Change the lamp “Key”", "Add the lamp “Key”", "Remove the lamp “Key”", "Add 2 lamps",
        "Add the lighting “Dusk”", "Use the lighting “Lighting 1”", "Add the surroundings “Yard”",
    )}  # fmt: skip


def test_documents_with_one_lighting_still_open(as1, scene) -> None:
    """As they were written before a review could have several: they open and give the same picture."""
    old = scene.model_dump(mode="json", exclude={"lightings", "lit_by", "panoramas"})
    old["lighting"] = {"surroundings": "overcast", "brightness": 1.5, "turn": 20.0, "floor": True,
                       "backdrop": {"kind": "plain", "bottom": "#FFFFFF", "top": "#DFD6CA"}}  # fmt: skip
    opened = Scene.model_validate(old)
    assert opened.lighting.surroundings == "overcast" and opened.lighting.backdrop.kind == "plain"
    assert Scene.model_validate_json(opened.model_dump_json()) == opened
    again = made(opened, SetLighting.model_validate({"kind": "set_lighting", "lighting": old["lighting"]}))
    shot = opened.shots[DEFAULT_SHOT]
    prints = {trace_inputs(as1.assembly, one, shot).fingerprint() for one in (again, opened)}
    assert len(prints) == 1


def test_names_do_not_make_a_still_out_of_date(as1, scene) -> None:
    lit = made(scene, SetLamps(lamps={"key": KEY}))
    renamed = made(
        lit,
        SetLamps(lamps={"key": KEY.model_copy(update={"name": "Main"})}),
        SetLighting(lighting=lit.lighting.model_copy(update={"name": "Table", "lamps": {"key": KEY}})),
    )
    shot = lit.shots[DEFAULT_SHOT]
    assert trace_inputs(as1.assembly, renamed, shot) == trace_inputs(as1.assembly, lit, shot)


def test_the_floor_lies_where_it_is_put(as1, scene) -> None:
    shot = scene.shots[DEFAULT_SHOT]
    lifted = scene.lighting.model_copy(update={"floor_finish": Floor(lift=-12.5)})
    low = made(scene, SetLighting(lighting=lifted))
    heights = [trace_inputs(as1.assembly, one, shot).floor_height for one in (scene, low)]
    assert heights[1] == pytest.approx(heights[0] - 12.5)


def test_a_panorama_in_use_stays(scene) -> None:
    used = Lighting(surroundings=f"map:{HASH}")
    lit = made(scene, SetPanoramas(panoramas={HASH: "Yard"}), SetLighting(lighting=used))
    with pytest.raises(EditRefused, match="uses that panorama"):
        apply_edit(lit, SetPanoramas(panoramas={HASH: None}), ())
    with pytest.raises(ValueError, match="no surroundings called"):
        Lighting(surroundings="atlantis")


# -- surroundings -----------------------------------------------------------------------------------------------


def test_an_overcast_sky_is_three_times_as_bright_at_the_zenith() -> None:
    """CIE standard overcast sky: L = Lz (1 + 2 sin γ) / 3 (CIE S 011); type 1 of the general sky comes close."""
    sky = LIGHTINGS["cloudy"].scene
    assert isinstance(sky, Sky)
    up = np.array([[[0.0, 0.0, 1.0], [0.0, -math.cos(0.6), math.sin(0.6)], [0.0, -1.0, 0.02]]])
    zenith, between, horizon = sky.radiance(up)[0] @ LUMINANCE
    assert zenith / horizon == pytest.approx(3.0, rel=0.2)
    assert between / zenith == pytest.approx((1 + 2 * math.sin(0.6)) / 3, rel=0.1)


def test_adjustments_keep_what_arrives_from_above() -> None:
    image = surroundings_map("dusk", 256)
    for change in ({"contrast": 1.6}, {"saturation": 0.0}, {"tint": (1, 0.5, 0.2)}):
        changed = adjusted(image, **change)
        before, after = (irradiance(one, (0, 0, 1)) @ LUMINANCE for one in (image, changed))
        assert after == pytest.approx(before, rel=1e-3)
    grey = adjusted(image, saturation=0.0)
    np.testing.assert_allclose(grey[..., 0], grey[..., 2], rtol=1e-4, atol=1e-2)
    assert adjusted(image, contrast=2.0).max() > image.max()


def test_maps_turn_shrink_and_blur() -> None:
    image = surroundings_map("matt", 512)
    peak = image.sum(axis=2).max(axis=0).argmax()
    assert turned(image, 90.0).sum(axis=2).max(axis=0).argmax() == (peak + 128) % 512
    small = shrunk(image, 128)
    assert small.shape == (64, 128, 3) and small.mean() == pytest.approx(image.mean(), rel=1e-5)
    assert shrunk(small, 256).shape == (128, 256, 3)
    soft = blurred(image, 0.3)
    assert soft.mean() == pytest.approx(image.mean(), rel=0.02) and soft.std() < 0.95 * image.std()
    seen = seen_map("field", 256)
    np.testing.assert_array_equal(seen[:64], surroundings_map("field", 256)[:64])
    assert seen[64:].min() > 0, "there is ground below the horizon"


def radiance_file(values: np.ndarray) -> bytes:
    """RGBE, each row run-length coded as one literal run after the other."""
    peak = np.maximum(values.max(axis=2), 1e-30)
    exponent = np.floor(np.log2(peak)) + 1
    rgb = np.floor(values / np.exp2(exponent)[..., None] * 256).clip(0, 255)
    rgbe = np.concatenate([rgb, (exponent + 128)[..., None]], axis=2).astype(np.uint8)
    height, width = values.shape[:2]
    out = f"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y {height} +X {width}\n".encode()
    for row in rgbe:
        out += bytes([2, 2, width >> 8, width & 255])
        for channel in row.T:
            for start in range(0, width, 100):
                run = channel[start : start + 100]
                same = len(set(run.tolist())) == 1
                out += bytes([128 + len(run), run[0]]) if same else bytes([len(run), *run])
    return out


def test_panoramas_are_read_and_mended() -> None:
    rng = np.random.default_rng(3)
    image = rng.gamma(0.5, 3.0, (64, 128, 3)).astype(np.float32)
    image[20:30] = 2.5
    found = panorama.read(radiance_file(image))
    np.testing.assert_allclose(found, image, atol=image.max(axis=2).max() / 100, rtol=0.02)
    np.testing.assert_allclose(panorama.read(exr_of(image)), image, rtol=1e-3, atol=1e-4)
    values, notes = panorama.usable(image)
    assert notes == [] and values.shape == image.shape
    broken = image.copy()
    broken[0, 0], broken[1, 1] = np.nan, -1.0
    broken[40:44] = 50.0
    values, notes = panorama.usable(broken)
    assert np.isfinite(values).all() and values.min() == 0 and len(notes) == 3
    assert "no number" in notes[0] and "negative" in notes[1] and "clipped" in notes[2]
    assert panorama.usable(np.ones((2500, 5000, 3), np.float32))[0].shape == (1250, 2500, 3)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"\x89PNG rest", "no panorama"),
        (b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 8 +X 16\n\x02\x02\x00\x10\x90", "ends too early"),
        (b"#?RADIANCE\nFORMAT=32-bit_rle_xyze\n\n-Y 8 +X 16\n", "RGBE"),
        (b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 99999 +X 99999\n", "too large"),
        (radiance_file(np.ones((20, 30, 3))), "twice as wide"),
        (exr_of(np.zeros((16, 32, 3), np.float32)), "black"),
        (exr_of(np.ones((16, 32, 3), np.float32))[:200], "could not be read"),
    ],
)
def test_what_is_no_panorama_is_refused_in_words(data: bytes, words: str) -> None:
    with pytest.raises(UnreadablePicture, match=words):
        panorama.usable(panorama.read(data))


def test_a_map_with_lamps_gives_what_they_give() -> None:
    """Illuminance in the middle of the product, from each lamp at its gain, by the map and by the lamp."""
    center = np.array([5.0, -3.0, 40.0])
    dark = np.zeros((128, 256, 3))
    spot = lamps.SpotLamp(name="s", position=(300, 0, 400), target=(5, -3, 40))
    for lamp in (KEY, spot, lamps.DistantLamp(name="d")):
        lit = with_lamps(dark, [(lamp, np.array([2.0, 1.0, 0.5]))], center)
        way = np.subtract(getattr(lamp, "position", center), center)
        way = lamp.direction() if isinstance(lamp, lamps.DistantLamp) else way / np.linalg.norm(way)
        toward = directions(128)
        solid = np.sin((np.arange(128) + 0.5) * np.pi / 128)[:, None] * (np.pi / 128) ** 2
        arriving = (lit * solid[..., None]).sum(axis=(0, 1))
        from_where = np.einsum("ij,ijk->k", lit[..., 1] * solid, toward)
        assert from_where @ way > 0.9 * np.linalg.norm(from_where)
        expected = illuminance(lamp, center[None])[0]
        assert arriving == pytest.approx(expected * np.array([2.0, 1.0, 0.5]), rel=0.02)


# -- where lamps stand ------------------------------------------------------------------------------------------

STAND = Stand(center=np.array([0.0, 0.0, 50.0]), radius=80.0, floor=0.0, eye=np.array([0.0, -600.0, 200.0]))


def test_new_lamps_and_sets_are_sized_to_the_product() -> None:
    for kind in ("panel", "round panel", "tube", "spot", "point", "distant"):
        lamp = new_lamp(kind, STAND, "Lamp")
        assert illuminance(lamp, STAND.center[None])[0] == pytest.approx(1700, rel=0.25), kind
    large = Stand(STAND.center * 10, STAND.radius * 10, 0.0, STAND.eye * 10)
    for name in SET_NAMES:
        (small, dim), (big, _) = (starter_set(name, stand) for stand in (STAND, large))
        assert 0 < dim < 1 and small.keys() == big.keys()
        for id, lamp in small.items():
            assert big[id].width == pytest.approx(10 * lamp.width, rel=0.02) and lamp.position[2] > 0
    key, fill = (starter_set("key, fill and rim", STAND)[0][id] for id in ("key", "fill"))
    assert key.position[0] > 0 > fill.position[0], "the key stands on the viewer's right"


def test_a_highlight_lies_where_it_was_pointed_to() -> None:
    """Angle of incidence equals angle of reflection (Hero of Alexandria)."""
    point, normal = np.array([10.0, -40.0, 60.0]), np.array([0.3, -0.9, 0.3]) / np.linalg.norm([0.3, -0.9, 0.3])
    for lamp in (KEY, lamps.DistantLamp(name="sun")):
        moved = highlight_at(lamp, STAND, point, normal)
        light = moved.direction() if isinstance(moved, lamps.DistantLamp) else np.subtract(moved.position, point)
        light, view = light / np.linalg.norm(light), (STAND.eye - point) / np.linalg.norm(STAND.eye - point)
        half = (light + view) / np.linalg.norm(light + view)
        assert half == pytest.approx(normal, abs=2e-3)
    with pytest.raises(CannotPlace, match="below the floor"):
        highlight_at(KEY, STAND, np.array([0.0, -40.0, 10.0]), np.array([0.0, -math.sqrt(0.5), -math.sqrt(0.5)]))
    with pytest.raises(CannotPlace, match="edge-on"):
        highlight_at(KEY, STAND, point, np.array([0.0, 1.0, 0.0]))


def test_a_shadow_falls_where_it_was_pointed_to() -> None:
    top, point = np.array([0.0, 0.0, 100.0]), np.array([-150.0, 60.0, 0.0])
    moved = shadow_at(KEY, STAND, point, top)
    way = np.subtract(moved.position, point)
    assert np.linalg.norm(np.cross(way, top - point)) < 1e-3 * np.linalg.norm(way) * np.linalg.norm(top - point)
    with pytest.raises(CannotPlace, match="beside the product"):
        shadow_at(KEY, STAND, np.array([0.0, 0.0, 120.0]), top)


def test_surroundings_turn_until_a_spot_shines() -> None:
    """At the turn that is told, what is mirrored there is a bright area; nearer turns show a darker one."""
    image = surroundings_map("matt", 256)
    eye, point = np.array([0.0, -600.0, 200.0]), np.array([0.0, -40.0, 60.0])
    normal = np.array([0.35, -0.7, 0.6]) / np.linalg.norm([0.35, -0.7, 0.6])
    view = (eye - point) / np.linalg.norm(eye - point)
    mirrored = 2 * (view @ normal) * normal - view

    def seen(turn: float) -> float:
        toward = directions(128)
        at = (toward @ mirrored).argmax()
        return float(turned(image, turn).reshape(-1, 3)[at] @ LUMINANCE)

    found = turn_to_shine(image, 120.0, eye, point, normal)
    assert seen(found) > 0.6 * image.max() and seen(found) > 3 * seen(120.0)
    assert seen(found + 10) < seen(found), "it is the nearest edge of the bright area"
    with pytest.raises(CannotPlace, match="mirrors the floor"):
        turn_to_shine(image, 0.0, eye, point, np.array([0.0, -1.0, 0.0]))
    with pytest.raises(CannotPlace, match="evenly bright"):
        turn_to_shine(surroundings_map("even", 256), 0.0, eye, point, normal)


def test_a_lighting_is_carried_to_another_product_and_view() -> None:
    """Ten times as large and seen from the right: every lamp lights its middle as before, from where the viewer sees
    it before."""
    made, _ = starter_set("key, fill and rim", STAND)
    made |= {
        "spot": new_lamp("spot", STAND, "Spot"),
        "point": new_lamp("point", STAND, "Point"),
        "sun": lamps.DistantLamp(name="Sun", azimuth=170.0),
    }
    lighting = Lighting(lamps=made, turn=100.0, floor_finish=Floor(lift=2.0))
    large = Stand(np.array([1000.0, 0.0, 500.0]), 800.0, 0.0, np.array([7000.0, 0.0, 2000.0]))
    found = CarriedLighting.of(lighting, STAND, {"b" * 64: "unused"}, {}).to(large)
    for id, lamp in made.items():
        before, after = (
            illuminance(one, stand.center[None])[0] for one, stand in ((lamp, STAND), (found.lamps[id], large))
        )
        assert after == pytest.approx(before, rel=0.02), id
    x, y, z = np.subtract(made["key"].position, STAND.center) * 10
    np.testing.assert_allclose(np.subtract(found.lamps["key"].position, large.center), (-y, x, z), atol=2)
    assert found.turn == pytest.approx(-170.0) and found.lamps["sun"].azimuth == pytest.approx(-100.0)
    assert found.floor_finish.lift == pytest.approx(20.0)
    again = CarriedLighting.of(found, large, {}, {}).to(STAND)
    np.testing.assert_allclose(again.lamps["rim"].position, made["rim"].position, atol=0.2)


def test_a_floor_takes_along_what_it_wears() -> None:
    """An appearance of the review's own goes with a kept lighting, and out again when its coming is undone."""
    own = {id: NEUTRAL.model_copy(update={"id": id, "name": id}) for id in ("slate", "chalk")}
    lighting = Lighting(floor_finish=Floor(kind="appearance", appearance="slate"))
    carried = CarriedLighting.of(lighting, STAND, {}, own).fitted(STAND)
    assert list(carried.appearances) == ["slate"]
    scene = Scene(models={}, shots={})
    edit = SetLightings(lightings={"kept": carried.lighting}, show="kept", define=carried.appearances)
    after, back = edit.apply(scene, set())
    assert ground_of(after, after.lighting) == own["slate"]
    assert back.apply(after, set())[0] == scene


@pytest.mark.parametrize(("ratio", "all"), [(3.0, 0.0), (0.5, 1.0)])
def test_levels_are_balanced_from_what_each_light_gives(ratio: float, all: float) -> None:
    """The shares are in proportion to the gains: scaled by the new ones, they stand as asked."""
    made, brightness = starter_set("key, fill and rim", STAND)
    lighting = Lighting(lamps=made | {"c": lamps.Card(name="Card", position=(0, 0, 9))}, brightness=brightness)
    shares = {"environment": 0.1, "glow": 0.1, "key": 0.3, "rim": 0.2, "fill": 0.05, "top": 0.25}
    found = balanced(lighting, shares, "key", ratio, all)
    after = {id: share * 2.0 ** (found.lamps[id].level - made[id].level) for id, share in shares.items() if id in made}
    rest = sum(after.values()) - after["key"] + 0.1 * found.brightness / brightness
    assert after["key"] / rest == pytest.approx(ratio, rel=0.02)
    assert after["key"] + rest == pytest.approx(0.9 * 2.0**all, rel=0.02)
    assert after["rim"] / after["fill"] == pytest.approx(4.0, rel=0.02) and found.lamps["c"] == lighting.lamps["c"]
    # A colour behind stays as it is and all light gives way; a place behind has a level of its own.
    brighter = balanced(lighting, shares, "key", ratio, all, 1.5)
    assert brighter.lamps["key"].level == pytest.approx(found.lamps["key"].level - 1.5, abs=0.02)
    place = lighting.model_copy(update={"backdrop": Backdrop(kind="environment")})
    seen = balanced(place, shares, "key", ratio, all, 1.5)
    assert seen.lamps == found.lamps and seen.backdrop.level == pytest.approx(1.5 + all)
    for key, given, why in (("gone", shares, "gives no light"), ("key", {"key": 1.0}, "no other light")):
        with pytest.raises(CannotBalance, match=why):
            balanced(lighting, given, key, ratio)


def test_bright_directions_are_where_the_panels_are() -> None:
    image = np.full((256, 512, 3), 0.02)
    azimuth = (np.arange(512) + 0.5) * 360 / 512 - 180
    elevation = 90 - (np.arange(256) + 0.5) * 180 / 256
    for center, height, value in ((-70, 30, 4.0), (120, 55, 2.0)):
        image[np.ix_(np.abs(elevation - height) < 8, np.abs(azimuth - center) < 10)] = value
    image[elevation < 0] = 50.0  # what the floor sends back is no direction to turn to
    first, second = brightest(image)
    assert (first.azimuth, first.elevation) == (pytest.approx(-70, abs=2), pytest.approx(30, abs=2))
    assert (second.azimuth, second.elevation) == (pytest.approx(120, abs=2), pytest.approx(55, abs=2))
    assert 0.5 < first.share < 0.8 and first.share + second.share > 0.8
    assert brightest(np.ones((64, 128, 3))) == []
