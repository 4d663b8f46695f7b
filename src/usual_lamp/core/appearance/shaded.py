"""What the shaded picture shows of an appearance: the nearest that a browser's material can do in one pass.

Its terms are those of glTF 2.0 with its material extensions (clear coat, sheen, iridescence, index of refraction),
which OpenPBR's parameters map onto one by one, except for what is settled here: what a coat lets through, light that
comes from beneath the surface, measured metals and clear bodies.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import BaseModel, Field

from usual_lamp.core.appearance.coat import darkening
from usual_lamp.core.appearance.openpbr import CONDUCTOR_COLORS, OpenPBR

LEAST_ROUGHNESS = 0.04
"""Below this, highlights of the shaded picture break up into points."""
MOST_IOR = 2.333
"""What a browser's material takes."""
CLEAR_OPACITY = 0.2
"""Of a clear wall: real refraction would need a second pass over the whole scene."""
Rgb = tuple[float, float, float]
Array = NDArray[np.float64]


class Shaded(BaseModel):
    """A material of the shaded picture. Colours are linear Rec. 709."""

    color: Rgb = Field(description="what is seen of the body, through the coat")
    through_coat: Rgb = Field(description="what the coat lets through: a picture on the body is multiplied by it")
    metalness: float
    roughness: float
    ior: float
    specular_weight: float
    specular_color: Rgb
    coat: float
    coat_roughness: float
    fuzz: float
    fuzz_color: Rgb
    fuzz_roughness: float
    film: float
    film_ior: float
    film_thickness: float = Field(description="nm")
    glow: Rgb = Field(description="cd/m² by channel")
    clear: bool = Field(description="seen through: one side is drawn, and hides nothing")
    opacity: float


@lru_cache(maxsize=4096)
def shaded(p: OpenPBR) -> Shaded:
    """The material that comes nearest to these parameters."""
    metalness = 1.0 if p.base_conductor else p.base_metalness
    transmission = p.transmission_weight * (1 - metalness)
    body = np.multiply(CONDUCTOR_COLORS[p.base_conductor] if p.base_conductor else p.base_color, p.base_weight)
    if p.base_conductor is None:
        body = _mixed(body, p.subsurface_color, p.subsurface_weight * (1 - metalness))
    body = _mixed(body, p.transmission_color, transmission)
    coated = np.multiply(p.coat_color, darkening(p, body))
    through = _mixed(np.ones(3), coated, p.coat_weight)
    clear = transmission > 0.5 and p.specular_roughness < 0.3
    return Shaded(
        color=_rgb(body * through),
        through_coat=_rgb(through),
        metalness=metalness,
        roughness=max(p.specular_roughness, LEAST_ROUGHNESS),
        ior=min(p.specular_ior, MOST_IOR),
        specular_weight=p.specular_weight,
        specular_color=p.specular_color,
        coat=p.coat_weight,
        coat_roughness=p.coat_roughness,
        fuzz=p.fuzz_weight,
        fuzz_color=p.fuzz_color,
        fuzz_roughness=p.fuzz_roughness,
        film=p.thin_film_weight,
        film_ior=min(p.thin_film_ior, MOST_IOR),
        film_thickness=1000 * p.thin_film_thickness,
        glow=_rgb(np.multiply(p.emission_color, p.emission_luminance)),
        clear=clear,
        opacity=CLEAR_OPACITY if clear else p.geometry_opacity,
    )


def _mixed(a: ArrayLike, b: ArrayLike, share: float) -> Array:
    return np.asarray(a) + np.subtract(b, a) * share


def _rgb(color: Array) -> Rgb:
    r, g, b = (round(float(value), 6) for value in color)
    return r, g, b
