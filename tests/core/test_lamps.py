"""Lamps against closed forms: what arrives from each kind, shadows by geometry, sums by group, and the lit floor."""

import math

import numpy as np
import pytest

from core.test_trace import LOOK_DOWN, MATT, NEAR, UNIFORM, appearance, color, mesh, sphere, square, world
from usual_lamp.core.appearance import hex_to_linear
from usual_lamp.core.camera import Camera, Finish
from usual_lamp.core.light import lamps
from usual_lamp.core.light.lamp_shapes import illuminance
from usual_lamp.core.picture import Layers, cleaned, finish, finish_on_nothing
from usual_lamp.core.scene import Backdrop, Lighting
from usual_lamp.core.scene.light_groups import light_groups, white_light
from usual_lamp.core.trace.group_sums import channels, packed, relit, unpacked
from usual_lamp.core.trace.jobs.live import LivePicture
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import numbers_of, trace_block, trace_groups
from usual_lamp.core.trace.world.world import World

ABOVE = dict(position=(0.0, 0.0, 1000.0), target=(0.0, 0.0, 0.0), name="lamp")
UP = np.array([[0.0, 0.0, 1.0]])
ORIGIN = np.zeros((1, 3))
DARK = np.zeros((32, 64, 3), np.float32)


def rectangle_factor(a: float, b: float, c: float) -> float:
    """Element parallel to a rectangle a x b at distance c, beneath its corner (J. R. Howell, A Catalog of Radiation
    Heat Transfer Configuration Factors, B-3; from memory)."""
    x, y = a / c, b / c
    first = x / math.sqrt(1 + x * x) * math.atan(y / math.sqrt(1 + x * x))
    return (first + y / math.sqrt(1 + y * y) * math.atan(x / math.sqrt(1 + y * y))) / (2 * math.pi)


PANEL = lamps.PanelLamp(width=400, height=600, luminance=4000, **ABOVE)
CASES = {
    "panel": (PANEL, math.pi * 4000 * 4 * rectangle_factor(200, 300, 1000)),
    # Element to a parallel disc over its middle: r² / (r² + h²), Howell B-2.
    "round panel": (
        lamps.PanelLamp(width=500, height=500, round=True, luminance=4000, **ABOVE),
        math.pi * 4000 * 250**2 / (250**2 + 1000**2),
    ),
    # A ball seen from outside: (r / d)², Howell B-37; the same by Φ / 4πd².
    "point": (lamps.PointLamp(lumen=1500, diameter=60, **ABOVE), 1500 / (4 * math.pi)),
    # Intensity over distance squared: the inverse square law.
    "spot": (lamps.SpotLamp(candela=800, **ABOVE), 800.0),
    # A line of intensity L D per length over its middle, seen under the half angle α: E = L D / h (α + sin 2α / 2).
    "tube": (
        lamps.TubeLamp(length=1200, diameter=20, luminance=9000, **ABOVE),
        9000 * 0.020 / 1.0 * (math.atan(0.6) + math.sin(2 * math.atan(0.6)) / 2),
    ),
    "distant": (lamps.DistantLamp(name="sun", elevation=30, angle=5, lux=2000), 1000.0),
}


@pytest.mark.parametrize("kind", CASES)
def test_illuminance_is_that_of_the_handbook(kind: str) -> None:
    lamp, expected = CASES[kind]
    assert illuminance(lamp, ORIGIN, UP)[0] == pytest.approx(expected, rel=0.015)


def upright_factor(a: float, b: float, c: float) -> float:
    """The same of a rectangle a x b that stands on the element's plane, b high, at the distance c from the element,
    with one of its upright sides before it (Howell B-4; from memory)."""
    far = math.hypot(b, c)
    return (math.atan(a / c) - c / far * math.atan(a / far)) / (2 * math.pi)


@pytest.mark.parametrize("height", [600, 400])
def test_a_panel_lights_by_the_closed_form_and_from_above_the_horizon_alone(height: float) -> None:
    assert illuminance(PANEL, ORIGIN, UP)[0] == pytest.approx(CASES["panel"][1], rel=1e-9)
    upright = PANEL.model_copy(update={"position": (0.0, -500.0, 0.0), "target": (0.0, 0.0, 0.0), "height": height})
    expected = math.pi * 4000 * 2 * upright_factor(200, height / 2, 500)
    assert illuminance(upright, ORIGIN, UP)[0] == pytest.approx(expected, rel=1e-9), "half of it stands in the floor"
    assert illuminance(upright, ORIGIN - [0, 600, 0], UP)[0] == 0.0, "behind it there is no light"
    whole = upright.model_copy(update={"position": (0.0, -500.0, height / 2), "target": (0.0, 0.0, height / 2)})
    both = math.pi * 4000 * 2 * upright_factor(200, height, 500)
    assert illuminance(whole, ORIGIN, UP)[0] == pytest.approx(both, rel=1e-9), "one that stands on it"


@pytest.mark.parametrize("kind", CASES)
def test_a_matt_surface_sends_back_what_arrives(kind: str) -> None:
    """ρE/π, however the light was found: by sampling it or by scattering towards it (Lambert)."""
    lamp, expected = CASES[kind]
    w = world({"plate": square(5)}, [appearance(**MATT)], LOOK_DOWN, DARK, lamps={"a": lamp})
    assert color(w, 256).mean() == pytest.approx(0.5 * expected / math.pi, rel=0.015)


@pytest.mark.parametrize("mirrored", [True, False])
def test_a_mirror_shows_a_lamp_or_does_not(mirrored: bool) -> None:
    lamp = PANEL.model_copy(update={"mirrored": mirrored, "position": (0.0, 0.0, 300.0)})
    silver = appearance(base_metalness=1.0, base_color=(1, 1, 1), specular_color=(1, 1, 1), specular_roughness=0.0)
    w = world({"plate": square(5)}, [silver], LOOK_DOWN, DARK, lamps={"a": lamp})
    assert color(w, 16).mean() == pytest.approx(4000 if mirrored else 0.0, rel=0.02, abs=1e-3)


@pytest.mark.parametrize("seen", [True, False])
def test_the_camera_sees_a_lamp_or_looks_through_it(seen: bool) -> None:
    facing = lamps.PanelLamp(
        name="lamp", position=(0, 20, 0), target=(0, -60, 0), width=100, height=100, luminance=5000, seen=seen
    )
    black = Backdrop(kind="plain", bottom="#000000")
    w = world({"ball": sphere()}, [appearance()], NEAR, DARK, lamps={"a": facing}, backdrop=black)
    corner = color(w, 16)[0, 0]
    assert corner == pytest.approx(np.full(3, 5000.0 if seen else 0.0), abs=1e-3)


def test_lamps_stand_in_no_ones_way() -> None:
    """Uniform light around and a lamp that is off above a plate: as if it were not there."""
    off = PANEL.model_copy(update={"on": False, "position": (0.0, 0.0, 60.0)})
    bare, beneath = (
        color(world({"plate": square(5)}, [appearance(**MATT)], LOOK_DOWN, UNIFORM, lamps=found), 256).mean()
        for found in ({}, {"a": off})
    )
    assert beneath == pytest.approx(bare, rel=0.01) and bare == pytest.approx(50, rel=0.01)


def test_half_shadow_of_a_wide_light_behind_a_step() -> None:
    """A light of 5° at 45° over an edge of height h: the half-shadow lies between h/tan(47.5°) and h/tan(42.5°), and
    half of the disc is seen at h (geometry)."""
    sun = lamps.DistantLamp(name="sun", azimuth=90, elevation=45, angle=5, lux=1000)
    h = 10.0
    step = mesh([(0, -50, 0), (0, 50, 0), (0, 50, h), (0, -50, h)], [(1, 0, 0)] * 4, [(0, 1, 2), (0, 2, 3)])
    camera = Camera(position=(-h, -0.01, 400), target=(-h, 0, 0), focal_length=400, parallel=True)
    size, black = (96, 72), appearance(base_color=(0, 0, 0), specular_weight=0.0)
    w = world({"floor": square(80), "step": step}, [appearance(**MATT), black], camera, DARK, size, lamps={"a": sun})
    row = color(w, 128)[30:42, :, 1].mean(axis=0) / (0.5 * 1000 * math.sin(math.radians(45)) / math.pi)
    across, _ = camera.half_tangents(size[0] / size[1])
    x = -h + (2 * (np.arange(size[0]) + 0.5) / size[0] - 1) * across * 400
    lit_from = -h / math.tan(math.radians(42.5)), -h, -h / math.tan(math.radians(47.5))
    ahead, half, behind = (np.interp(place, x, row) for place in lit_from)
    assert ahead == pytest.approx(1.0, abs=0.04) and half == pytest.approx(0.5, abs=0.05)
    assert behind == pytest.approx(0.0, abs=0.04)


SUN = lamps.DistantLamp(name="sun", azimuth=60, elevation=35, angle=8, lux=3000, kelvin=4500)
THREE = {
    "key": lamps.PanelLamp(name="key", position=(30, -30, 40), width=30, height=30, luminance=20000),
    "sun": SUN,
    "off": lamps.PointLamp(name="off", position=(-30, -20, 30), diameter=4, lumen=12, on=False),
}
VIEW = Camera(position=(8, -70, 30), target=(0, 0, -3), focal_length=60)
SIZE = (40, 30)
AREA = Tile(0, 0, *SIZE)


def lit(lighting: Lighting) -> World:
    """A ball and a glowing one on the floor."""
    ball, glowing = sphere(), sphere(2.0, 16)
    ball.positions[:, 2] += 10
    glowing.positions[:] += (9, -9, 2)
    wear = [appearance(base_color=(0.7, 0.4, 0.2)), appearance(base_color=(0, 0, 0), emission_luminance=900.0)]
    found = world({"ball": ball, "lit": glowing}, wear, VIEW, None, SIZE, floor=True)
    return World(found.inputs.model_copy(update={"lighting": lighting}), found.mesh_of)


def test_groups_add_up_and_levels_change_without_a_new_trace() -> None:
    """The sum of the groups is the picture; re-weighted groups are a new trace, within noise."""
    first = Lighting(lamps=THREE)
    later = first.model_copy(
        update={
            "brightness": 0.5,
            "glow": 1.0,
            "lamps": THREE
            | {
                "key": THREE["key"].model_copy(update={"level": 1.5, "kelvin": 3200.0}),
                "off": THREE["off"].model_copy(update={"on": True, "level": 1.0, "filter": "#80C0FF"}),
            },
        }
    )
    w = lit(first)
    kept = trace_groups(w, numbers_of(AREA, SIZE[0]), 0, 64, w.groups.kept).reshape(*SIZE[::-1], -1)
    np.testing.assert_allclose(relit(kept, first, None), trace_block(w, AREA, 0, 64), rtol=1e-3, atol=0.5)

    live = LivePicture(w.mesh_of)
    live.follow(w.inputs)
    while live.samples < 200:
        live.step()
    before = live.samples
    assert not live.follow(w.inputs.model_copy(update={"lighting": later})) and live.samples == before
    anew = trace_block(lit(later), AREA, 0, 256) / 256
    found = live.picture() / live.samples
    for part in (slice(0, 3), slice(9, 12)):
        a, b = found[..., part], anew[..., part]
        assert a.mean() == pytest.approx(b.mean(), rel=0.01)
        a, b = (x.reshape(6, 5, 8, 5, 3).mean(axis=(1, 3)) for x in (a, b))
        np.testing.assert_allclose(a, b, rtol=0.08, atol=0.05 * b.mean())
    assert sum(live.shares().values()) == pytest.approx(1.0) and live.shares()["off"] > 0.01


def test_more_lamps_than_groups_share_the_last() -> None:
    many = {f"l{k}": SUN if k == 9 else THREE["key"] for k in range(12)}
    groups = light_groups(Lighting(lamps=many))
    assert groups.kept == 8 and groups.of_lamp["l4"] == 6 and groups.of_lamp["l5"] == groups.of_lamp["l11"] == 7
    assert groups.gains[7] == pytest.approx(1.0) and groups.traced_in["l9"] == pytest.approx(white_light(4500.0))


@pytest.mark.parametrize("brightness", [0.0, 1.0])
def test_an_unshadowed_floor_is_the_backdrop_under_any_lamps(brightness: float) -> None:
    """Far from the product, and beyond the pool of a lamp."""
    backdrop = Backdrop(kind="plain", bottom="#C08040")
    w = lit(Lighting(lamps=THREE, brightness=brightness, backdrop=backdrop, glows=False))
    seen = trace_block(w, AREA, 0, 128)[..., 9:12] / 128
    corners = np.stack([seen[-1, 0], seen[-1, -1], seen[0, 0]])
    np.testing.assert_allclose(corners, np.broadcast_to(w.bottom, (3, 3)), rtol=0.04)
    assert seen.min() < 0.5 * w.bottom.min(), "and in shadow it is darker"


def test_the_floor_mirrors_no_lamp_that_the_camera_does_not_see() -> None:
    """It would lie on it as a bright patch: the backdrop stands where the mirror lobe meets nothing."""
    brightest = []
    for seen in (False, True):
        rim = lamps.PanelLamp(position=(0, 60, 34), name="rim", width=160, height=60, luminance=9000, seen=seen)
        w = lit(Lighting(lamps={"rim": rim}, backdrop=Backdrop(kind="plain"), glows=False))
        found = trace_block(w, AREA, 0, 128)[-6:, :, :3] / 128 / w.bottom
        brightest.append(float(found.mean(axis=2).max()))
    assert brightest[0] < 1.03 and brightest[1] > brightest[0] + 0.1


def test_light_by_temperature() -> None:
    """White at 6504 K; at 3000 K red over blue as the black body's (Planck), luminance kept."""
    assert white_light(6504.0) == (1.0, 1.0, 1.0)
    warm = np.array(white_light(3000.0))
    assert warm @ [0.2126, 0.7152, 0.0722] == pytest.approx(1.0, abs=1e-3) and warm[0] > 2 * warm[2]


def test_zero_everywhere_without_emitters_is_black() -> None:
    """Common practice, no published source."""
    w = world({"ball": sphere()}, [appearance(**MATT)], NEAR, UNIFORM, brightness=0.0)
    assert w.is_dark and color(w, 16)[7:9, 7:9].max() == 0


def test_what_a_lamp_must_be() -> None:
    for wrong in (dict(luminance=math.nan), dict(width=0.0), dict(level=99.0), dict(kelvin=10.0), dict(name="")):
        with pytest.raises(ValueError, match="1 validation error"):
            lamps.PanelLamp(**ABOVE | wrong)


def test_a_transparent_picture_over_its_own_colour_is_the_picture() -> None:
    """Composed in 8-bit sRGB as programs do it (the alpha blend of W3C, Compositing and Blending Level 1): mean error
    under 1.0 and 99th percentile under 6 of 255."""
    ground = "#B8A890"
    w = lit(Lighting(lamps=THREE, backdrop=Backdrop(kind="gradient", bottom=ground, transparent=True)))
    clean = cleaned(Layers.from_sums(trace_block(w, AREA, 0, 64), 64), np.copy)
    solid = finish(clean, Finish()).astype(float)
    cut = finish_on_nothing(clean, Finish(), hex_to_linear(ground)).astype(float)
    color, alpha = cut[..., :3], cut[..., 3:] / 255
    below = np.array([int(ground[k : k + 2], 16) for k in (1, 3, 5)])
    error = np.abs(color * alpha + below * (1 - alpha) - solid)
    assert error.mean() < 1.0 and np.percentile(error, 99) < 6
    assert alpha[0, 0, 0] < 0.02 and 0.05 < (alpha > 0.97).mean() < 0.4, "nothing around it, and all of the ball"
    shadow = (alpha > 0.2) & (alpha < 0.9) & (color.max(axis=2, keepdims=True) < 40)
    assert shadow.sum() > 10, "its shadow is dark and half transparent"


def test_packed_light_is_true_to_two_thousandths() -> None:
    rng = np.random.default_rng(4)
    sums = (rng.uniform(0, 1, (20, 30, channels(2))) * 10 ** rng.uniform(-2, 6, (20, 30, 1))).astype(np.float32)
    sums[..., 3:6] = -sums[..., 3:6]
    sums[..., :6] = np.clip(sums[..., :6], -1, 1)
    found = unpacked(packed(sums, 4), 20, 30)
    np.testing.assert_allclose(found, sums / 4, rtol=1.6e-3, atol=1e-4)
    with pytest.raises(ValueError):
        unpacked(packed(sums, 4), 20, 31)


def test_a_ball_gives_the_same_near_and_far() -> None:
    """By the inverse square law: lm / (4 pi d²), d in m, as handbooks have it for a small even source."""
    ball = lamps.PointLamp(name="ball", position=(0.0, 0.0, 0.0), diameter=60.0, lumen=1500.0)
    distance = np.array([300.0, 599.0, 601.0, 5000.0])
    found = illuminance(ball, np.c_[0 * distance, 0 * distance, distance])
    np.testing.assert_allclose(found, 1500.0 / (4 * np.pi * (distance / 1000) ** 2), rtol=0.01)
