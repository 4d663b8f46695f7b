"""Maps of what surrounds the product: made from the catalogue, scaled, turned, blurred and measured.

A map is latitude-longitude, row 0 at the zenith. Azimuth 0 is the direction from which the front (-y) is seen,
positive towards the right side (+x): column u of a map w wide has azimuth 2π(u + 0.5)/w - π.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray

from usual_lamp.core.light import daylight
from usual_lamp.core.light.catalogue import LIGHTINGS, Panel, Surroundings
from usual_lamp.core.light.panorama import shipped
from usual_lamp.core.light.rooms import Room

Array = NDArray[np.float64]
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
"""Of linear Rec. 709 (ITU-R BT.709)."""
ONE = (1.0, 1.0, 1.0)
UPWARD_ILLUMINANCE = 2600.0
"""lx on a level surface facing up, at brightness 1: a well-lit photographic table."""
REFERENCE_EV = 9.3
"""The exposure at which these lightings look right, and at which a backdrop shows exactly in its own colour."""


PanoramaOf = Callable[[str], NDArray[np.float32]]
IMPORTED = re.compile(r"map:([0-9a-f]{64})")
"""Names an imported panorama by its content hash."""


def known_surroundings(name: str) -> str:
    """The name of surroundings that there are, or of an imported panorama. Raises ValueError."""
    if name not in LIGHTINGS and name != daylight.NAME and not IMPORTED.fullmatch(name):
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
    if name.startswith(daylight.NAME):
        return _daylight(name, width)
    light = LIGHTINGS[name]
    return leveled(shipped(light.panorama) if light.panorama else _computed(light, width))


def _daylight(name: str, width: int) -> NDArray[np.float32]:
    """The sky of a sun, as bright as it is beside it."""
    image = np.zeros((width // 2, width, 3), np.float32)
    image[: width // 4] = daylight.placed_sky(name, directions(width // 2)[: width // 4])
    return image


class MapWish(NamedTuple):
    """Which map surrounds the product, and what is done to it."""

    name: str
    """Of the catalogue, of an imported panorama, or of the sky of a sun."""
    contrast: float = 1.0
    saturation: float = 1.0
    tint: tuple[float, float, float] = ONE
    """Linear Rec. 709."""
    tilt: float = 0.0
    """Degrees about the axis from left to right: what was overhead comes to the front."""


def wished_map(wish: MapWish, width: int, panorama_of: PanoramaOf | None, seen: bool = False) -> NDArray[np.float32]:
    """(H, 2H, 3) cd/m²; one that is computed is `width` wide. `seen`: also what of it lies below the horizon.

    `panorama_of` gives an imported one by its content hash. Raises ValueError where there is none to be had.
    """
    imported = IMPORTED.fullmatch(wish.name)
    if imported is None:
        image = seen_map(wish.name, width) if seen or wish.tilt else surroundings_map(wish.name, width)
    elif panorama_of is None:
        raise ValueError("The surroundings are an imported panorama, which is not to be had here.")
    else:
        image = leveled(panorama_of(imported[1])[..., :3])
    if wish.tilt:
        image = tilted(image, wish.tilt)
    if (wish.contrast, wish.saturation, wish.tint) == (1.0, 1.0, ONE):
        return image
    return adjusted(image, wish.contrast, wish.saturation, wish.tint)


def tilted(image: NDArray[np.floating], degrees: float) -> NDArray[np.float32]:
    """A map turned about the axis from left to right, bilinear; what was overhead comes to the front (-y)."""
    height, width = image.shape[:2]
    angle = np.radians(degrees)
    x, y, z = np.moveaxis(directions(height), -1, 0)
    y, z = y * np.cos(angle) + z * np.sin(angle), z * np.cos(angle) - y * np.sin(angle)
    row = np.arccos(np.clip(z, -1.0, 1.0)) * height / np.pi - 0.5
    column = (np.arctan2(x, -y) / (2 * np.pi) + 0.5) * width - 0.5
    wide = np.concatenate([image[:, -1:], image, image[:, :1]], axis=1)
    at = np.stack([np.clip(row, 0, height - 1), column + 1])
    turned_by = [scipy.ndimage.map_coordinates(wide[..., k], at, order=1, mode="nearest") for k in range(3)]
    return np.stack(turned_by, axis=-1).astype(np.float32)


def leveled(image: NDArray[np.floating], lux: float = UPWARD_ILLUMINANCE) -> NDArray[np.float32]:
    """A map scaled so that it gives that illuminance on a level surface."""
    return np.asarray(image * (lux / max(_upward(image), 1e-9)), dtype=np.float32)


def _upward(image: NDArray[np.floating]) -> float:
    return float(irradiance(image, (0.0, 0.0, 1.0)) @ LUMINANCE)


def seen_map(name: str, width: int = 2048) -> NDArray[np.float32]:
    """The same as one looks at it: also what lies below the horizon."""
    if name.startswith(daylight.NAME):
        sky = _daylight(name, width).copy()
        sky[width // 4 :] = (irradiance(sky, (0.0, 0.0, 1.0)) + daylight.sun_on_ground(name)) * daylight.GROUND / np.pi
        return sky
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
    luminance = values @ LUMINANCE
    if contrast != 1.0:
        mean = max(float(luminance[luminance > 0].mean()) if (luminance > 0).any() else 1.0, 1e-9)
        factor = np.where(luminance > 0, (np.maximum(luminance, 1e-9) / mean) ** (contrast - 1.0), 1.0)
        values, luminance = values * factor[..., None], luminance * factor
    if saturation != 1.0:
        values = np.maximum(luminance[..., None] + (values - luminance[..., None]) * saturation, 0.0)
    return leveled(values * np.array(tint) if tuple(tint) != ONE else values, _upward(image))


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
