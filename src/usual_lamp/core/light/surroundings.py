"""The three lightings: soft panels and gradients on a sphere around the product.

A map is latitude-longitude, row 0 at the zenith. Azimuth 0 is the direction from which the front (-y) is seen,
positive towards the right side (+x): column u of a map w wide has azimuth 2π(u + 0.5)/w - π.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

LightingName = Literal["panels", "overcast", "overhead"]
Array = NDArray[np.float64]
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
    """A built-in environment: its label, panels of light, and a gradient between them."""

    label: str
    panels: tuple[Panel, ...]
    zenith: float
    horizon: float
    """Luminance of the gradient between the panels, relative."""


WARM, COOL = (1.0, 0.95, 0.88), (0.93, 0.97, 1.0)

LIGHTINGS: dict[LightingName, Surroundings] = {
    "panels": Surroundings(
        "Two panels and a rim",
        (
            Panel(48, 46, 58, 40, 17.0, 6, WARM),
            Panel(-72, 22, 13, 62, 8.5, 4, COOL),
            Panel(-160, 40, 90, 13, 20.0, 4),
            Panel(128, 30, 26, 46, 5.0, 8),
            Panel(0, 88, 360, 20, 3.2, 10),
        ),
        zenith=0.75,
        horizon=0.55,
    ),
    "overcast": Surroundings(
        "Overcast window",
        (
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
        (
            Panel(0, 82, 360, 44, 9.5, 5),
            Panel(12, 12, 120, 18, 1.5, 10),
            Panel(-150, 26, 50, 34, 3.4, 8, COOL),
        ),
        zenith=0.7,
        horizon=0.5,
    ),
}


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


@lru_cache(maxsize=8)
def surroundings_map(name: LightingName, width: int = 2048) -> NDArray[np.float32]:
    """(width / 2, width, 3) scene-linear Rec. 709 in cd/m², scaled to UPWARD_ILLUMINANCE, black below the horizon.

    Below the horizon the tracer puts what the floor sends back, which depends on the backdrop.
    """
    light, height = LIGHTINGS[name], width // 2
    elevation = 90.0 - (np.arange(height) + 0.5)[:, None] * 180.0 / height
    azimuth = (np.arange(width) + 0.5)[None, :] * 360.0 / width - 180.0
    azimuth, elevation = np.broadcast_arrays(azimuth, elevation)
    blend = np.clip(elevation / 90.0, 0.0, 1.0) ** 0.7
    image = np.repeat((light.horizon + (light.zenith - light.horizon) * blend)[:, :, None], 3, axis=2)
    for panel in light.panels:
        image += panel_mask(panel, azimuth, elevation)[:, :, None] * panel.luminance * np.array(panel.tint)
    image[elevation < 0] = 0.0
    scale = UPWARD_ILLUMINANCE / float(irradiance(image, (0.0, 0.0, 1.0)) @ [0.2126, 0.7152, 0.0722])
    return np.asarray(image * scale, dtype=np.float32)


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
