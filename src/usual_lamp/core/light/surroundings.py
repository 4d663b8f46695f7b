"""Surroundings that ship with the application: soft panels, rooms and skies on a sphere around the product.

A map is latitude-longitude, row 0 at the zenith. Azimuth 0 is the direction from which the front (-y) is seen,
positive towards the right side (+x): column u of a map w wide has azimuth 2π(u + 0.5)/w - π.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray

from usual_lamp.core.light.panorama import shipped
from usual_lamp.core.light.rooms import Room, Sky, Window

Array = NDArray[np.float64]
ONE = (1.0, 1.0, 1.0)
UPWARD_ILLUMINANCE = 2600.0
"""lx on a level surface facing up, at brightness 1: a well-lit photographic table."""
REFERENCE_EV = 9.3
"""The exposure at which these lightings look right, and at which a backdrop shows exactly in its own colour."""


@dataclass(frozen=True)
class Panel:
    """A soft-edged rectangular light; angles in degrees, seen from the product; luminance relative."""

    azimuth: float
    elevation: float
    width: float
    height: float
    luminance: float
    softness: float = 6.0
    tint: tuple[float, float, float] = (1.0, 1.0, 1.0)


@dataclass(frozen=True)
class Surroundings:
    """A built-in environment: its label, and a room, a sky or a gradient with panels of light before it."""

    label: str
    scene: Room | Sky | None = None
    panorama: str | None = None
    """A measured one, by its file's name."""
    panels: tuple[Panel, ...] = ()
    zenith: float = 0.0
    horizon: float = 0.0
    """Luminance of the gradient between the panels, relative."""


WARM, COOL = (1.0, 0.95, 0.88), (0.93, 0.97, 1.0)

LIGHTINGS: dict[str, Surroundings] = {
    "panels": Surroundings(
        "Two panels and a rim",
        panels=(
            Panel(48, 46, 58, 40, 17.0, 6, WARM),
            Panel(-72, 22, 13, 62, 8.5, 4, COOL),
            Panel(-160, 40, 90, 13, 20.0, 4),
            Panel(128, 30, 26, 46, 5.0, 8),
            Panel(0, 88, 360, 20, 3.2, 10),
        ),
        zenith=0.75,
        horizon=0.55,
    ),
    "shiny": Surroundings(
        "Table top for shiny parts",
        panels=(
            Panel(62, 34, 62, 66, 9.0, 30, WARM),
            Panel(-66, 34, 46, 66, 6.5, 26, COOL),
            Panel(176, 46, 130, 20, 9.0, 12),
            Panel(0, 90, 360, 30, 6.0, 26),
            Panel(-4, 16, 26, 44, 0.35, 8),
        ),
        zenith=0.5,
        horizon=0.18,
    ),
    "matt": Surroundings(
        "Table top for matt parts",
        panels=(
            Panel(58, 50, 34, 34, 44.0, 6, WARM),
            Panel(-150, 34, 60, 16, 30.0, 4, COOL),
            Panel(-64, 26, 50, 50, 2.2, 16),
        ),
        zenith=0.9,
        horizon=0.6,
    ),
    "clear": Surroundings(
        "Table top for clear parts",
        panels=(
            Panel(180, 24, 116, 52, 9.0, 3),
            Panel(52, 44, 18, 62, 13.0, 3),
            Panel(-58, 30, 10, 66, 8.0, 2, COOL),
            Panel(0, 90, 360, 18, 4.0, 6),
        ),
        zenith=0.35,
        horizon=0.12,
    ),
    "tunnel": Surroundings(
        "Light tunnel",
        panels=(
            *(Panel(side, 34, 14, 56, 12.0, 3) for side in (-128.0, -52.0, 52.0, 128.0)),
            Panel(90, 58, 150, 9, 14.0, 2),
            Panel(-90, 58, 150, 9, 14.0, 2),
            Panel(0, 90, 360, 14, 5.0, 6),
        ),
        zenith=0.5,
        horizon=0.3,
    ),
    "overcast": Surroundings(
        "Overcast window",
        panels=(
            Panel(-62, 30, 22, 52, 12.0, 3, COOL),
            Panel(-36, 30, 22, 52, 12.0, 3, COOL),
            Panel(110, 20, 70, 60, 1.6, 18, WARM),
            Panel(170, 60, 90, 26, 3.2, 12),
        ),
        zenith=1.5,
        horizon=0.7,
    ),
    "overhead": Surroundings(
        "Large overhead panel",
        panels=(
            Panel(0, 82, 360, 44, 9.5, 5),
            Panel(12, 12, 120, 18, 1.5, 10),
            Panel(-150, 26, 50, 34, 3.4, 8, COOL),
        ),
        zenith=0.7,
        horizon=0.5,
    ),
    "workshop": Surroundings(
        "Bright workshop",
        scene=Room(
            (12.0, 16.0, 4.2),
            (
                *(Window("ceiling", x, y, 0.035, 0.3, 60.0, COOL) for x in (-0.6, -0.2, 0.2, 0.6) for y in (-0.5, 0.3)),
                Window("right", -0.1, 0.1, 0.24, 0.75, 9.0, COOL),
            ),
            walls=(0.78, 0.78, 0.76),
            ground=(0.32, 0.34, 0.33),
            at=(1.0, -1.0),
        ),
    ),
    "hall": Surroundings(
        "Assembly hall",
        scene=Room(
            (36.0, 60.0, 11.0),
            (
                *(
                    Window("ceiling", x, y, 0.03, 0.02, 420.0)
                    for x in (-0.75, -0.25, 0.25, 0.75)
                    for y in (-0.6, -0.2, 0.2, 0.6)
                ),
                *(Window("ceiling", x, 0.0, 0.07, 0.85, 10.0, COOL) for x in (-0.5, 0.5)),
                Window("back", 0.2, -0.4, 0.25, 0.5, 12.0, COOL),
            ),
            walls=(0.55, 0.56, 0.58),
            ceiling=(0.45, 0.45, 0.46),
            at=(-3.0, -8.0),
        ),
    ),
    "office": Surroundings(
        "Office with windows",
        scene=Room(
            (7.0, 9.0, 2.9),
            (
                *(Window("left", y, 0.2, 0.17, 0.52, 26.0, COOL) for y in (-0.66, -0.2, 0.26, 0.72)),
                *(Window("ceiling", 0.35, y, 0.1, 0.16, 8.0, WARM) for y in (-0.5, 0.4)),
            ),
            walls=(0.75, 0.72, 0.67),
            ground=(0.3, 0.26, 0.22),
            at=(-1.0, -0.6),
        ),
    ),
    "stand": Surroundings(
        "Exhibition stand",
        scene=Room(
            (10.0, 8.0, 5.5),
            (
                *(Window("ceiling", x, y, 0.035, 0.045, 520.0, WARM) for x in (-0.7, 0.0, 0.7) for y in (-0.55, 0.15)),
                Window("back", 0.0, 0.1, 0.75, 0.55, 3.4),
                Window("right", 0.2, 0.2, 0.4, 0.2, 7.0, COOL),
            ),
            walls=(0.16, 0.16, 0.17),
            ceiling=(0.06, 0.06, 0.06),
            ground=(0.25, 0.24, 0.23),
            at=(0.5, -1.0),
        ),
    ),
    "cloudy": Surroundings(
        "Overcast sky",
        scene=Sky((4.0, -0.7), (0.0, -1.0, 0.0), (40.0, 50.0), (0.97, 1.0, 1.04), (0.95, 0.97, 1.0)),
    ),
    "field": Surroundings(
        "Open field, sunny",
        scene=Sky(
            (-1.0, -0.32),
            (10.0, -3.0, 0.45),
            (55.0, 42.0),
            (0.42, 0.68, 1.25),
            (0.95, 1.02, 1.1),
            (1.2, 1.1, 0.95),
            (2.5, 900.0),
        ),
    ),
    "dusk": Surroundings(
        "Dusk yard",
        scene=Sky(
            (-1.0, -0.25),
            (4.0, -2.2, 0.3),
            (-64.0, 12.0),
            (0.42, 0.52, 0.85),
            (1.0, 0.8, 0.66),
            (1.5, 1.0, 0.6),
            (6.0, 14.0),
        ),
        panels=(Panel(64, 44, 9, 9, 120.0, 2, (1.0, 0.84, 0.62)), Panel(150, 30, 7, 7, 120.0, 2, (1.0, 0.8, 0.55))),
    ),
    "night": Surroundings(
        "Night with lamps",
        panels=(
            Panel(40, 52, 9, 9, 300.0, 2, (1.0, 0.85, 0.62)),
            Panel(-48, 40, 8, 8, 210.0, 2, (1.0, 0.85, 0.62)),
            Panel(-140, 34, 22, 9, 130.0, 2, (0.75, 0.88, 1.0)),
            Panel(130, 30, 8, 8, 170.0, 2, (1.0, 0.85, 0.62)),
        ),
        zenith=0.12,
        horizon=0.3,
    ),
    "flat": Surroundings("Empty flat, measured", panorama="apartment"),
    "square": Surroundings("City square, measured", panorama="city"),
    "ballroom": Surroundings("Ballroom with lamps, measured", panorama="hall"),
    "machines": Surroundings("Machine laboratory, measured", panorama="lab"),
    "clouds": Surroundings("Sea and clouds, measured", panorama="sky"),
    "umbrella": Surroundings("Umbrella light, measured", panorama="studio"),
    "harbour": Surroundings("Harbour in the evening, measured", panorama="sunset"),
    "gradient": Surroundings("Gradient from above", zenith=4.0, horizon=0.5),
    "even": Surroundings("Even light from all sides", zenith=1.0, horizon=1.0),
}
"""By the name that documents keep; in the order in which they are shown."""


IMPORTED = re.compile(r"map:([0-9a-f]{64})")
"""Names an imported panorama by its content hash."""


def known_surroundings(name: str) -> str:
    """The name of surroundings that there are, or of an imported panorama. Raises ValueError."""
    if name not in LIGHTINGS and not IMPORTED.fullmatch(name):
        raise ValueError(f"there are no surroundings called {name!r}")
    return name


def smooth_edge(distance: Array, softness: float) -> Array:
    """1 well inside (negative distance), 0 well outside, smoothstep over `softness` degrees."""
    t = np.clip(0.5 - distance / max(softness, 1e-3), 0.0, 1.0)
    return t * t * (3.0 - 2.0 * t)


def panel_mask(panel: Panel, azimuth: Array, elevation: Array) -> Array:
    """Share of the panel seen in each direction; panels over the pole are caps around it."""
    if panel.width >= 360:
        return smooth_edge((90.0 - elevation) - panel.height, panel.softness)
    turn = (azimuth - panel.azimuth + 180.0) % 360.0 - 180.0
    across = np.abs(turn) * np.cos(np.radians(elevation)) - panel.width / 2
    along = np.abs(elevation - panel.elevation) - panel.height / 2
    return smooth_edge(across, panel.softness) * smooth_edge(along, panel.softness)


@lru_cache(maxsize=4)
def surroundings_map(name: str, width: int = 2048) -> NDArray[np.float32]:
    """(width / 2, width, 3) scene-linear Rec. 709 in cd/m², scaled to UPWARD_ILLUMINANCE.

    What is computed is black below the horizon: there the tracer puts what the floor sends back, which depends on the
    backdrop. A measured panorama keeps its own size.
    """
    light = LIGHTINGS[name]
    return leveled(shipped(light.panorama) if light.panorama else _computed(light, width))


def leveled(image: NDArray[np.floating]) -> NDArray[np.float32]:
    """A map scaled so that it gives UPWARD_ILLUMINANCE on a level surface."""
    lux = float(irradiance(image, (0.0, 0.0, 1.0)) @ [0.2126, 0.7152, 0.0722])
    return np.asarray(image * (UPWARD_ILLUMINANCE / max(lux, 1e-9)), dtype=np.float32)


def seen_map(name: str, width: int = 2048) -> NDArray[np.float32]:
    """The same as one looks at it: also what lies below the horizon."""
    light = LIGHTINGS[name]
    if light.panorama:
        return surroundings_map(name)
    whole = _computed(light, width, whole=True)
    lit = surroundings_map(name, width)
    above = slice(0, width // 4)
    whole[width // 4 :] *= float(lit[above].sum()) / max(float(whole[above].sum()), 1e-9)
    whole[above] = lit[above]
    return np.asarray(whole, np.float32)


def _computed(light: Surroundings, width: int, whole: bool = False) -> Array:
    """(width / 2, width, 3), relative: room, sky or gradient with its panels; black below the horizon, or `whole`."""
    height = width // 2
    image = np.zeros((height, width, 3))
    if whole:
        image[height // 2 :] = _behind(light, directions(height)[height // 2 :])
        if not isinstance(light.scene, Room):
            # Ground that sends back a part of what lies over its horizon.
            image[height // 2 :] *= 0.45
    above = image[: height // 2]
    above += _behind(light, directions(height)[: height // 2])
    elevation = 90.0 - (np.arange(height // 2) + 0.5)[:, None] * 180.0 / height
    azimuth = (np.arange(width) + 0.5)[None, :] * 360.0 / width - 180.0
    azimuth, elevation = np.broadcast_arrays(azimuth, elevation)
    for panel in light.panels:
        above += panel_mask(panel, azimuth, elevation)[:, :, None] * panel.luminance * np.array(panel.tint)
    return image


def adjusted(
    image: NDArray[np.floating], contrast: float = 1.0, saturation: float = 1.0, tint: tuple[float, float, float] = ONE
) -> NDArray[np.float32]:
    """A map with its contrast (an exponent about its mean luminance), saturation and tint changed, as bright as before
    on a level surface; the tint is linear Rec. 709."""
    values = np.asarray(image, np.float64)
    luminance = values @ [0.2126, 0.7152, 0.0722]
    if contrast != 1.0:
        mean = max(float(luminance[luminance > 0].mean()) if (luminance > 0).any() else 1.0, 1e-9)
        factor = np.where(luminance > 0, (np.maximum(luminance, 1e-9) / mean) ** (contrast - 1.0), 1.0)
        values, luminance = values * factor[..., None], luminance * factor
    if saturation != 1.0:
        values = np.maximum(luminance[..., None] + (values - luminance[..., None]) * saturation, 0.0)
    return leveled(values * np.array(tint) if tuple(tint) != ONE else values)


def turned(image: NDArray[np.floating], degrees: float) -> NDArray[np.floating]:
    """A map turned about the vertical, by whole pixels: what was at azimuth 0 is then at `degrees`."""
    return np.roll(image, round(degrees / 360.0 * image.shape[1]), axis=1)


def shrunk(image: NDArray[np.floating], width: int) -> NDArray[np.floating]:
    """A map (H, 2H, 3) at another width: means where it is smaller, repeated where it is larger."""
    if image.shape[1] == width:
        return image
    if image.shape[1] > width:
        sums = np.zeros((image.shape[0] + 1, image.shape[1] + 1, 3))
        sums[1:, 1:] = np.cumsum(np.cumsum(image, axis=0), axis=1)
        rows, columns = (np.linspace(0, image.shape[k], width // (2 - k) + 1).astype(int) for k in range(2))
        (a, b), (c, d) = (rows[:-1], rows[1:]), (columns[:-1], columns[1:])
        total = sums[np.ix_(b, d)] - sums[np.ix_(a, d)] - sums[np.ix_(b, c)] + sums[np.ix_(a, c)]
        return np.asarray(total / ((b - a)[:, None, None] * (d - c)[None, :, None]))
    rows, columns = ((np.arange(width // (2 - k)) + 0.5) * image.shape[k] / (width // (2 - k)) for k in range(2))
    return np.asarray(image[rows.astype(int)][:, columns.astype(int)])


def blurred(image: NDArray[np.float32], blur: float) -> NDArray[np.float32]:
    """A map out of focus: 0 as it is, 1 over a sixth of a turn."""
    if blur <= 0:
        return image
    step = max(1, image.shape[1] // 512)
    rows, columns = image.shape[0] // step, image.shape[1] // step
    small = image[: rows * step, : columns * step].reshape(rows, step, columns, step, 3).mean(axis=(1, 3))
    width = blur * columns / 12
    return np.asarray(scipy.ndimage.gaussian_filter(small, (width, width, 0), mode=("nearest", "wrap", "nearest")))


def _behind(light: Surroundings, toward: Array) -> Array:
    """(..., 3): the room, the sky or the gradient in unit directions."""
    if light.scene is not None:
        return light.scene.radiance(toward)
    blend = np.clip(np.degrees(np.arcsin(np.clip(toward[..., 2], 0.0, 1.0))) / 90.0, 0.0, 1.0) ** 0.7
    return np.repeat((light.horizon + (light.zenith - light.horizon) * blend)[..., None], 3, axis=2)


def directions(height: int) -> Array:
    """(height, 2 * height, 3) unit directions of the map's pixels, z-up."""
    polar = (np.arange(height) + 0.5)[:, None] * np.pi / height
    azimuth = (np.arange(2 * height) + 0.5)[None, :] * np.pi / height - np.pi
    sine = np.sin(polar)
    return np.stack(
        [
            sine * np.sin(azimuth),
            -sine * np.cos(azimuth),
            np.broadcast_to(np.cos(polar), (height, 2 * height)),
        ],
        axis=-1,
    )


def irradiance(image: NDArray[np.floating], normal: tuple[float, float, float]) -> Array:
    """Irradiance (illuminance for luminances) per channel on a surface with this normal under the map."""
    height = image.shape[0]
    polar = (np.arange(height) + 0.5) * np.pi / height
    solid_angle = np.sin(polar)[:, None] * (np.pi / height) ** 2
    cosine = np.clip(directions(height) @ np.asarray(normal), 0.0, None)
    return np.asarray(np.einsum("ij,ijc->c", cosine * solid_angle, image))
