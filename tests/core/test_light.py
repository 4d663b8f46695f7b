"""The lightings as measured light: levels, orientation, and directions drawn in proportion to it."""

import numpy as np
import pytest

from usual_lamp.core.light import LIGHTINGS, directions, irradiance, surroundings_map
from usual_lamp.core.light.surroundings import UPWARD_ILLUMINANCE
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.world.lights import EnvironmentMap

LUMINANCE = np.array([0.2126, 0.7152, 0.0722])


@pytest.mark.parametrize("name", LIGHTINGS)
def test_all_surroundings_give_the_same_level(name: str) -> None:
    image = surroundings_map(name, 512)
    measured = LIGHTINGS[name].panorama is not None
    assert image.shape == (256, 512, 3) and np.isfinite(image).all() and image.min() >= 0
    assert irradiance(image, (0, 0, 1)) @ LUMINANCE == pytest.approx(UPWARD_ILLUMINANCE, rel=1e-3)
    assert (image[128:].max() > 0) == measured, "what is computed leaves the ground to the floor"


def test_the_key_light_stands_front_right_above() -> None:
    """A light that flatters comes from the front right, above (common practice, no published source)."""
    image = surroundings_map("panels", 512) @ LUMINANCE
    where = directions(256).reshape(-1, 3)[image.argmax()]
    front = [irradiance(surroundings_map("panels", 512), side) @ LUMINANCE for side in ((1, -1, 0), (-1, -1, 0))]
    assert where[2] > 0 and front[0] > front[1]


def test_irradiance_of_an_even_sky() -> None:
    """π L on a level surface, half of it on an upright one (Lambert)."""
    sky = np.zeros((128, 256, 3))
    sky[:64] = 100.0
    assert irradiance(sky, (0, 0, 1)) == pytest.approx(np.full(3, 100 * np.pi), rel=2e-4)
    assert irradiance(sky, (1, 0, 0)) == pytest.approx(np.full(3, 50 * np.pi), rel=2e-3)


def test_samples_go_to_what_stands_out_of_even_light() -> None:
    """Even light is met by scattering as well, so most samples go to a lamp that gives an eighth of all light (the
    choice of O. Karlik et al. 2019: what is sampled is what exceeds the mean)."""
    rng = mi.PCG32(size=1 << 14)
    points = mi.Point2f(rng.next_float32(), rng.next_float32())
    even = np.full((256, 512, 3), 100.0, np.float32)
    alike = np.array(EnvironmentMap(even).sample(points, mi.Bool(True)).density)
    assert np.quantile(alike, [0.05, 0.95]) == pytest.approx([1 / (4 * np.pi)] * 2, rel=0.02), "to all sides alike"
    lamp = even.copy()
    lamp[96:104, 40:56] = 10_000.0
    solid = np.cos(np.radians(90 - (np.arange(256) + 0.5) * 180 / 256))[:, None]
    share = float(((lamp - even)[..., 0] * solid).sum() / (lamp[..., 0] * solid).sum())
    light = np.array(EnvironmentMap(lamp).sample(points, mi.Bool(True)).radiance)[1]
    assert 0.1 < share < 0.2 and (light > 1_000).mean() > 0.85


def drawn(turn: float, n: int = 1 << 17):
    sky = EnvironmentMap(surroundings_map("panels", 512), turn)
    rng = mi.PCG32(size=n)
    return sky, sky.sample(mi.Point2f(rng.next_float32(), rng.next_float32()), mi.Bool(True))


@pytest.mark.parametrize("turn", [0.0, 75.0])
def test_drawn_directions_estimate_the_irradiance(turn: float) -> None:
    """Sum of radiance x cosine / density is the illuminance, whichever way the map is turned."""
    _, found = drawn(turn)
    cosine = dr.maximum(found.direction.z, 0)
    value = np.array(found.radiance * cosine / found.density).mean(axis=1)
    assert value @ LUMINANCE == pytest.approx(UPWARD_ILLUMINANCE, rel=0.01)


def test_density_of_a_direction_is_that_of_drawing_it() -> None:
    sky, found = drawn(20.0)
    again = np.array(sky.density(found.direction, mi.Bool(True)))
    assert np.median(np.abs(again / np.array(found.density) - 1)) < 1e-3
    sphere = mi.warp.square_to_uniform_sphere(
        mi.Point2f(mi.PCG32(size=1 << 17).next_float32(), mi.PCG32(size=1 << 17, initseq=9).next_float32())
    )
    assert float(np.mean(np.array(sky.density(sphere, mi.Bool(True)))) * 4 * np.pi) == pytest.approx(1.0, abs=0.03)


def test_turning_changes_nothing_else() -> None:
    plain, _ = drawn(0.0)
    turned, _ = drawn(90.0)
    ahead, right = mi.Vector3f(0, -1, 0.3), mi.Vector3f(1, 0, 0.3)
    straight = np.array(plain.radiance(dr.normalize(ahead), mi.Bool(True))).ravel()
    assert np.array(turned.radiance(dr.normalize(right), mi.Bool(True))).ravel() == pytest.approx(straight, rel=1e-3)
