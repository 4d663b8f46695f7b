"""The sun's place and light against published examples and a reference library."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import numpy as np
import pandas
import pvlib
import pytest

from usual_lamp.core.light import directions, irradiance
from usual_lamp.core.light.arranging import CannotPlace, put_sun
from usual_lamp.core.light.daylight import GROUND, daylight
from usual_lamp.core.light.lamps import DistantLamp
from usual_lamp.core.light.sun import SunTime, beam, sun_position, warmth
from usual_lamp.core.light.surroundings import LUMINANCE, tilted, turned, wished_map
from usual_lamp.core.scene import Lighting
from usual_lamp.core.trace.engine import mi

SUN = DistantLamp(name="Sun")


def test_the_worked_example_of_nrel() -> None:
    """I. Reda and A. Andreas, Solar Position Algorithm for Solar Radiation Applications (NREL/TP-560-34302), table
    A5.1: Golden, Colorado, 17 October 2003, 12:30:30 at UTC-7, 820 mbar, 11 °C."""
    moment = datetime(2003, 10, 17, 19, 30, 30, tzinfo=UTC)
    found = sun_position(moment, 39.742476, -105.1786, pressure=820.0, celsius=11.0)
    assert 90 - found.elevation == pytest.approx(50.11162, abs=0.01)
    assert found.azimuth == pytest.approx(194.34024, abs=0.01)


def test_two_hundred_random_dates_and_places() -> None:
    """Against the NREL algorithm of pvlib, within 0.01° on the sphere."""
    rng = np.random.default_rng(7)
    worst = 0.0
    for _ in range(200):
        moment = datetime(1960, 1, 1, tzinfo=UTC) + timedelta(seconds=float(rng.uniform(0, 85 * 365.25 * 86400)))
        latitude, longitude = float(np.degrees(np.arcsin(rng.uniform(-1, 1)))), float(rng.uniform(-180, 180))
        found = sun_position(moment, latitude, longitude, pressure=0.0)
        times = pandas.DatetimeIndex([moment])
        asked = pvlib.solarposition.spa_python(times, latitude, longitude, pressure=0.0, delta_t=None)
        known = float(asked["elevation"].iloc[0]), float(asked["azimuth"].iloc[0])
        across = (found.azimuth - known[1] + 180) % 360 - 180
        off = np.hypot(found.elevation - known[0], across * np.cos(np.radians(known[0])))
        worst = max(worst, float(off))
    assert worst < 0.01


def test_the_beam_of_a_clear_sky() -> None:
    """About 100 klx from a high sun through clear air; less when it is lower or the air is hazy (common practice, no
    published source). Against pvlib's own form of Kasten's formula."""
    assert 85_000 < beam(60.0, 2.5) < 110_000
    assert beam(60.0, 2.5) > beam(20.0, 2.5) > beam(3.0, 2.5) > 0 == beam(-1.0, 2.5) and beam(30, 5) < beam(30, 2)
    assert 5300 < warmth(60, 2) <= 5700 and warmth(1, 3) < 3000


def test_the_sun_is_put_by_the_product() -> None:
    noon = SunTime(date="2026-03-20", time="12:20", zone=1.0, latitude=48.0, longitude=11.0)
    high = put_sun(SUN, noon)
    assert high.sun == noon and high.elevation == pytest.approx(42.0, abs=0.6)
    # From the south, which lies at the front when north lies behind.
    assert abs(high.azimuth) < 3 and high.direction()[1] < 0
    morning = put_sun(SUN, noon.model_copy(update={"time": "08:00"}))
    assert morning.direction()[0] > 0.8, "east lies to the right of who looks north"
    turned = put_sun(SUN, noon.model_copy(update={"north": 90.0}))
    assert turned.direction()[0] < -0.6, "north to the right: the noon sun comes from the left"
    assert morning.lux < high.lux and morning.kelvin < high.kelvin


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"time": "23:30"}, "below the horizon"),
        ({"latitude": 80.0, "date": "2026-12-21"}, "all day long"),
        ({"date": "2026-02-31"}, "that month is shorter"),
    ],
)
def test_no_sun_is_said(change: dict, words: str) -> None:
    with pytest.raises(CannotPlace, match=words):
        put_sun(SUN, SunTime(**change))


SKIES = [(5.0, 2.0), (20.0, 3.3), (45.0, 2.5), (70.0, 6.0)]


@pytest.mark.parametrize(("elevation", "turbidity"), SKIES)
def test_the_clear_sky_is_that_of_the_published_model(elevation: float, turbidity: float) -> None:
    """Another program of the same model, Mitsuba's emitter: the same in every direction but for one factor."""
    toward = directions(32)[:15]
    turn, high = np.radians(30.0), np.radians(elevation)
    sun = [np.cos(high) * np.sin(turn), -np.cos(high) * np.cos(turn), np.sin(high)]
    emitter = mi.load_dict(
        {"type": "sunsky", "turbidity": turbidity, "albedo": GROUND, "sun_direction": sun, "sun_scale": 0.0}
    )
    look = mi.SurfaceInteraction3f()
    look.wi = mi.Vector3f(*(-toward.reshape(-1, 3).T))
    expected = np.array(emitter.eval(look)).T.reshape(toward.shape)
    ratio = daylight(toward, 30.0, elevation, turbidity) / expected
    assert ratio.min() == pytest.approx(ratio.max(), rel=1e-4)


@pytest.mark.parametrize("elevation", [10.0, 20.0, 45.0, 70.0])
def test_the_clear_sky_gives_what_the_handbook_says(elevation: float) -> None:
    """Horizontal illuminance from a clear sky: 0.8 + 15.5 sin(h)^½ klx (IES RP-21, Calculation of Daylight
    Availability; from memory)."""
    image = np.zeros((64, 128, 3))
    image[:32] = daylight(directions(64)[:32], 0.0, elevation, 2.5)
    lux = irradiance(image, (0.0, 0.0, 1.0)) @ LUMINANCE
    assert lux == pytest.approx(1000 * (0.8 + 15.5 * np.sqrt(np.sin(np.radians(elevation)))), rel=0.25)


def test_the_sky_follows_the_first_sun_and_its_ground_has_a_colour() -> None:
    sun = DistantLamp(name="Sun", azimuth=-60.0, elevation=60.0)
    lit = Lighting(surroundings="daylight", lamps={"sun": sun}, turn=20.0)
    image = turned(wished_map(lit.map_wish, 256, None), lit.turn)
    row = int(128 * 30 / 180)
    brightest = directions(128)[row, (image[row] @ LUMINANCE).argmax()]
    assert brightest @ sun.direction() > np.cos(np.radians(3.0)), "of those as high as the sun"
    assert Lighting(surroundings="daylight").map_wish.name == "daylight:40.00,40.00,3.00"
    colder = wished_map(lit.map_wish._replace(saturation=0.5), 256, None)
    assert irradiance(colder, (0, 0, 1)) @ LUMINANCE == pytest.approx(
        irradiance(image, (0, 0, 1)) @ LUMINANCE, rel=0.01
    )


def test_surroundings_are_tilted_about_the_side() -> None:
    """What was overhead comes to the front, and the side stays where it is."""
    image = np.zeros((128, 256, 3), np.float32)
    image[:4] = 1.0
    for degrees, toward in ((30.0, (0, -0.5, np.cos(np.radians(30)))), (90.0, (0, -1, 0)), (-90.0, (0, 1, 0))):
        found = tilted(image, degrees)
        weight = (found @ LUMINANCE) * np.sin((np.arange(128) + 0.5) * np.pi / 128)[:, None]
        middle = np.einsum("ij,ijc->c", weight, directions(128))
        np.testing.assert_allclose(middle / np.linalg.norm(middle), toward, atol=0.02)
    np.testing.assert_allclose(tilted(image, 0.0), image, atol=1e-5)
