"""Appearance = a named set of OpenPBR Surface 1.1 parameters, by that standard's own names and defaults.

Only parameters that the tracer obeys are present; two are ours, `base_conductor` and `geometry_tangent_rotation`
(the standard asks for a tangent vector, which here follows from the part's shape). Colours are linear-light Rec. 709
in 0..1; lengths are mm; emission is a luminance in cd/m².
"""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from usual_lamp.core.appearance.texture import Texture

Share = Annotated[float, Field(ge=0.0, le=1.0)]
Color = tuple[Share, Share, Share]
Conductor = Literal["Ag", "Al", "Au", "Be", "Cr", "Cu", "Hg", "Ir", "Mo", "Nb", "Ni", "Rh", "Ta", "TiN", "V", "W"]
"""Metals with measured n and k, by chemical symbol."""
CONDUCTORS: dict[Conductor, str] = {
    "Ag": "silver", "Al": "aluminium", "Au": "gold", "Be": "beryllium", "Cr": "chromium", "Cu": "copper",
    "Hg": "mercury", "Ir": "iridium", "Mo": "molybdenum", "Nb": "niobium", "Ni": "nickel", "Rh": "rhodium",
    "Ta": "tantalum", "TiN": "titanium nitride", "V": "vanadium", "W": "tungsten",
}  # fmt: skip
"""Their names."""
CONDUCTOR_COLORS: dict[Conductor, Color] = {
    "Ag": (0.972, 0.960, 0.915), "Al": (0.913, 0.922, 0.924), "Au": (1.000, 0.782, 0.343),
    "Be": (0.539, 0.538, 0.537), "Cr": (0.635, 0.662, 0.705), "Cu": (0.955, 0.638, 0.538),
    "Hg": (0.781, 0.780, 0.778), "Ir": (0.701, 0.693, 0.656), "Mo": (0.559, 0.579, 0.570),
    "Nb": (0.504, 0.507, 0.505), "Ni": (0.659, 0.609, 0.526), "Rh": (0.797, 0.765, 0.742),
    "Ta": (0.389, 0.360, 0.412), "TiN": (0.614, 0.461, 0.233), "V": (0.511, 0.528, 0.565),
    "W": (0.515, 0.496, 0.468),
}  # fmt: skip
"""Their reflectance seen straight on, in daylight; worked out from n and k, see `trace/surface/spectrum.py`."""
Family = Literal[
    "metal", "plastic", "paint", "glass", "rubber", "wood", "fabric", "stone", "paper", "glow", "from CAD", "neutral"
]


class OpenPBR(BaseModel):
    """Parameters of https://academysoftwarefoundation.github.io/OpenPBR (Surface, version 1.1)."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    base_weight: Share = 1.0
    base_color: Color = (0.8, 0.8, 0.8)
    base_diffuse_roughness: Share = 0.0
    base_metalness: Share = 0.0
    base_conductor: Annotated[
        Conductor | None, Field(description="metal by measured n and k instead of base_color and specular_color")
    ] = None
    specular_weight: Share = 1.0
    specular_color: Color = (1.0, 1.0, 1.0)
    specular_roughness: Share = 0.3
    specular_roughness_anisotropy: Share = 0.0
    specular_ior: Annotated[float, Field(ge=1.0, le=3.0)] = 1.5
    transmission_weight: Share = 0.0
    transmission_color: Color = (1.0, 1.0, 1.0)
    transmission_depth: Annotated[float, Field(ge=0.0, le=1e4, description="mm; 0 tints at the surface")] = 0.0
    subsurface_weight: Share = 0.0
    subsurface_color: Color = (0.8, 0.8, 0.8)
    subsurface_radius: Annotated[float, Field(ge=0.001, le=1000.0, description="mean free path, mm")] = 1.0
    subsurface_radius_scale: Color = (1.0, 0.5, 0.25)
    subsurface_scatter_anisotropy: Annotated[float, Field(ge=-0.95, le=0.95)] = 0.0
    fuzz_weight: Share = 0.0
    fuzz_color: Color = (1.0, 1.0, 1.0)
    fuzz_roughness: Share = 0.5
    coat_weight: Share = 0.0
    coat_color: Color = (1.0, 1.0, 1.0)
    coat_roughness: Share = 0.0
    coat_ior: Annotated[float, Field(ge=1.0, le=3.0)] = 1.6
    coat_darkening: Share = 1.0
    thin_film_weight: Share = 0.0
    thin_film_thickness: Annotated[float, Field(ge=0.0, le=10.0, description="micrometres")] = 0.5
    thin_film_ior: Annotated[float, Field(ge=1.0, le=3.0)] = 1.4
    emission_luminance: Annotated[float, Field(ge=0.0, le=1e6, description="cd/m²")] = 0.0
    emission_color: Color = (1.0, 1.0, 1.0)
    geometry_opacity: Share = 1.0
    geometry_thin_walled: bool = False
    geometry_tangent_rotation: Annotated[
        float, Field(ge=-180.0, le=180.0, description="degrees by which brushing is turned on the surface")
    ] = 0.0


class Appearance(BaseModel):
    """A named set of OpenPBR parameters with its textures."""

    model_config = ConfigDict(frozen=True)

    id: str = Field(min_length=1, max_length=64)
    name: str = Field(min_length=1, max_length=80)
    family: Family
    params: OpenPBR
    textures: tuple[Texture, ...] = ()
    """Laid on in this order."""

    @model_validator(mode="after")
    def _glow_has_light(self) -> Appearance:
        if self.family == "glow" and self.params.emission_luminance == 0:
            raise ValueError("a glowing appearance needs an emission_luminance above 0 cd/m²")
        return self


def hex_to_linear(text: str) -> tuple[float, float, float]:
    """`#RRGGBB` (sRGB) to linear light, by IEC 61966-2-1. Raises ValueError for anything else."""
    digits = text.removeprefix("#")
    if len(digits) != 6:
        raise ValueError(f"{text!r} is not a colour like #C9CDD0")
    encoded = np.array([int(digits[i : i + 2], 16) for i in (0, 2, 4)]) / 255.0
    linear = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    r, g, b = (round(float(v), 6) for v in linear)
    return r, g, b


def linear_to_hex(color: tuple[float, float, float]) -> str:
    """Linear light to the nearest `#RRGGBB` (sRGB)."""
    linear = np.clip(color, 0.0, 1.0)
    encoded = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    return "#" + "".join(f"{round(float(v) * 255):02X}" for v in encoded)
