"""Where the sun stands at a date, time and place, and what light it gives there under a clear sky.

Position: J. Meeus, Astronomical Algorithms (2nd ed., 1998), chapters 12, 13, 16 and 25, low accuracy: within 0.01° from
1950 to 2050. Light: the direct beam of F. Kasten, "The Linke turbidity factor based on improved values of the integral
Rayleigh optical thickness", Solar Energy 56(3), 1996, with the air mass of F. Kasten and A. T. Young, Applied Optics
28(22), 1989. Numbers of both from memory.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

TOWNS: tuple[tuple[str, float, float, float], ...] = (
    ("Auckland", -36.85, 174.76, 12),
    ("Bangalore", 12.97, 77.59, 5.5),
    ("Berlin", 52.52, 13.41, 1),
    ("Cape Town", -33.92, 18.42, 2),
    ("Chicago", 41.88, -87.63, -6),
    ("Dubai", 25.2, 55.27, 4),
    ("London", 51.51, -0.13, 0),
    ("Madrid", 40.42, -3.7, 1),
    ("Milan", 45.46, 9.19, 1),
    ("Munich", 48.14, 11.58, 1),
    ("New York", 40.71, -74.01, -5),
    ("Osaka", 34.69, 135.5, 9),
    ("Paris", 48.86, 2.35, 1),
    ("San Francisco", 37.77, -122.42, -8),
    ("São Paulo", -23.55, -46.63, -3),
    ("Shanghai", 31.23, 121.47, 8),
    ("Singapore", 1.35, 103.82, 8),
    ("Stockholm", 59.33, 18.07, 1),
    ("Sydney", -33.87, 151.21, 10),
    ("Warsaw", 52.23, 21.01, 1),
)
"""Name, degrees north and east, and hours ahead of UTC without summer time; from memory, rounded to 0.01°."""
DELTA_T = 69.0
"""s between terrestrial and universal time, of the 2010s and 2020s."""
SUN_CONSTANT = 133_800.0
"""lx outside of the atmosphere."""
LOWEST = -0.3
"""Degrees: with its middle lower than this, half of the sun is below the horizon."""


class SunTime(BaseModel):
    """A moment and a place, by which the sun is put."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    date: Annotated[str, Field(pattern=r"^(19[5-9]\d|20[0-4]\d)-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$")] = "2026-06-21"
    time: Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")] = "15:00"
    zone: Annotated[float, Field(ge=-12.0, le=14.0, description="hours ahead of UTC")] = 1.0
    latitude: Annotated[float, Field(ge=-90.0, le=90.0, description="degrees north")] = 48.14
    longitude: Annotated[float, Field(ge=-180.0, le=180.0, description="degrees east")] = 11.58
    north: Annotated[
        float, Field(ge=-180.0, le=180.0, description="degrees that north lies to the right of the back of the product")
    ] = 0.0
    turbidity: Annotated[float, Field(ge=1.0, le=10.0, description="after Linke: 2 very clear, 6 hazy")] = 3.0

    def moment(self) -> datetime:
        """In UTC. Raises ValueError for a day that the month does not have."""
        local = datetime.fromisoformat(f"{self.date}T{self.time}").replace(tzinfo=UTC)
        return local - timedelta(hours=self.zone)


@dataclass(frozen=True)
class SunPosition:
    """Degrees: above the horizon, and from north towards east."""

    elevation: float
    azimuth: float


def sun_position(
    moment: datetime, latitude: float, longitude: float, pressure: float = 1010.0, celsius: float = 10.0
) -> SunPosition:
    """Where the sun is seen at a moment in UTC; `pressure` (hPa) and temperature bend its light, 0 hPa: not at all."""
    day = (moment - datetime(2000, 1, 1, 12, tzinfo=UTC)).total_seconds() / 86_400
    century = (day + DELTA_T / 86_400) / 36_525
    mean = 280.46646 + 36000.76983 * century + 0.0003032 * century**2
    anomaly = 357.52911 + 35999.05029 * century - 0.0001537 * century**2
    center = (1.914602 - 0.004817 * century - 0.000014 * century**2) * sin(anomaly)
    center += (0.019993 - 0.000101 * century) * sin(2 * anomaly) + 0.000289 * sin(3 * anomaly)
    node = 125.04 - 1934.136 * century
    longitude_of_sun = mean + center - 0.00569 - 0.00478 * sin(node)
    tilt = 23.439291 - 0.0130042 * century + 0.00256 * cos(node)
    ascension = math.degrees(math.atan2(cos(tilt) * sin(longitude_of_sun), cos(longitude_of_sun)))
    declination = math.degrees(math.asin(sin(tilt) * sin(longitude_of_sun)))
    sidereal = 280.46061837 + 360.98564736629 * day + 0.000387933 * (day / 36_525) ** 2
    sidereal += -17.2 / 3600 * sin(node) * cos(tilt)
    hour = sidereal + longitude - ascension
    height = sin(latitude) * sin(declination) + cos(latitude) * cos(declination) * cos(hour)
    elevation = math.degrees(math.asin(max(-1.0, min(1.0, height))))
    south = math.atan2(sin(hour), cos(hour) * sin(latitude) - math.tan(math.radians(declination)) * cos(latitude))
    elevation -= 8.794 / 3600 * cos(elevation)
    return SunPosition(elevation + refraction(elevation, pressure, celsius), (math.degrees(south) + 180.0) % 360.0)


def sin(degrees: float) -> float:
    """Return the sine of an angle in degrees."""
    return math.sin(math.radians(degrees))


def cos(degrees: float) -> float:
    """Return the cosine of an angle in degrees."""
    return math.cos(math.radians(degrees))


def refraction(elevation: float, pressure: float, celsius: float) -> float:
    """Degrees by which the air lifts what is seen there (Meeus 16.4, after Sæmundsson); none below the horizon."""
    if elevation < -0.8333:
        return 0.0
    bent = 1.02 / (60 * math.tan(math.radians(elevation + 10.3 / (elevation + 5.11))))
    return bent * pressure / 1010.0 * 283.0 / (273.0 + celsius)


def beam(elevation: float, turbidity: float) -> float:
    """lx on a surface that faces the sun, under a clear sky."""
    if elevation <= LOWEST:
        return 0.0
    high = max(elevation, 0.0)
    mass = 1.0 / (math.sin(math.radians(high)) + 0.50572 * (high + 6.07995) ** -1.6364)
    if mass > 20:
        rayleigh = 1.0 / (10.4 + 0.718 * mass)
    else:
        rayleigh = 1.0 / (6.6296 + 1.7513 * mass - 0.1202 * mass**2 + 0.0065 * mass**3 - 0.00013 * mass**4)
    return SUN_CONSTANT * math.exp(-0.8662 * turbidity * mass * rayleigh)


def warmth(elevation: float, turbidity: float) -> float:
    """Colour temperature of the sun in K: warm when it is low, and warmer through haze. Fitted by eye to 5500 K at noon
    and 2000 to 3000 K at sunset (common practice, no published source)."""
    low = math.exp(-max(elevation, 0.0) / 9.0)
    return round(max(1900.0, 5700.0 - 3300.0 * low - 60.0 * (turbidity - 2.0) * (1 + 3 * low)), -1)
