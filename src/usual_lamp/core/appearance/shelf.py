"""The shelf: samples made by us, and what a part looks like before anybody gave it anything.

Normal-incidence reflectances of metals are handbook values for polished samples (from memory of optical
tables, rounded); roughness, paints and plastics are chosen by eye on the finish plate. Where a metal is measured, its
colour is what the shaded picture shows of it.
"""

from __future__ import annotations

import hashlib
from functools import lru_cache

from usual_lamp.core.appearance.openpbr import Appearance, Family, OpenPBR, hex_to_linear
from usual_lamp.core.appearance.texture import Texture, TextureTarget

FAMILIES: tuple[Family, ...] = ("metal", "plastic", "paint", "glass", "rubber", "glow")


Value = float | bool | str | tuple[float, ...]


def _sample(id: str, name: str, family: Family, color: str, **params: Value) -> Appearance:
    values = {"base_color": hex_to_linear(color), **params}
    return Appearance(id=id, name=name, family=family, params=OpenPBR.model_validate(values))


# fmt: off
_samples = [
    _sample("steel-machined", "Steel, machined", "metal", "#C6C4C1", base_metalness=1.0, specular_roughness=0.26),
    _sample(
        "aluminium-blasted", "Aluminium, blasted", "metal", "#DDDEDF", base_metalness=1.0, specular_roughness=0.42
    ),
    _sample("brass-turned", "Brass, turned", "metal", "#E6C578", base_metalness=1.0, specular_roughness=0.17),
    _sample(
        "steel-brushed", "Steel, brushed", "metal", "#C6C4C1",
        base_metalness=1.0, specular_roughness=0.38, specular_roughness_anisotropy=0.85,
    ),
    _sample(
        "chrome-plated", "Chrome plate", "metal", "#D1D5DA",
        base_metalness=1.0, base_conductor="Cr", specular_roughness=0.05,
    ),
    _sample(
        "gold-plated", "Gold plate", "metal", "#FFE59E",
        base_metalness=1.0, base_conductor="Au", specular_roughness=0.14,
    ),
    _sample(
        "copper-bare", "Copper, bare", "metal", "#FAD1C2",
        base_metalness=1.0, base_conductor="Cu", specular_roughness=0.22,
    ),
    _sample(
        "titanium-tinted", "Titanium, heat-tinted", "metal", "#BDB4AA",
        base_metalness=1.0, specular_roughness=0.2,
        thin_film_weight=1.0, thin_film_thickness=0.075, thin_film_ior=2.4,
    ),
    _sample("anodised-orange", "Anodised, orange", "metal", "#E0612A", base_metalness=0.75, specular_roughness=0.34),
    _sample("abs-graphite", "ABS, graphite satin", "plastic", "#34373B", specular_roughness=0.42),
    _sample(
        "soft-touch", "Soft-touch, anthracite", "plastic", "#2C2E31", specular_roughness=0.6, specular_weight=0.6,
        fuzz_weight=0.45, fuzz_color=hex_to_linear("#8D9299"), fuzz_roughness=0.5,
    ),
    _sample("abs-light", "ABS, light grey gloss", "plastic", "#D9D8D3", specular_roughness=0.16),
    _sample(
        "powder-slate", "Powder coat, slate blue", "paint", "#6E8CA6",
        specular_roughness=0.46, base_diffuse_roughness=0.3,
    ),
    _sample(
        "paint-red", "Gloss paint, red", "paint", "#A8231E", specular_roughness=0.45,
        coat_weight=1.0, coat_roughness=0.03,
    ),
    _sample(
        "polycarbonate-clear", "Polycarbonate, clear", "glass", "#FFFFFF", specular_roughness=0.0, specular_ior=1.585,
        transmission_weight=1.0, transmission_color=(0.93, 0.97, 0.97), transmission_depth=30.0,
    ),
    _sample(
        "rubber-black", "Rubber, black", "rubber", "#222224",
        specular_roughness=0.62, specular_weight=0.7, base_diffuse_roughness=0.6,
    ),
    _sample(
        "silicone-milky", "Silicone, milky", "rubber", "#EFE7D8", specular_roughness=0.33, specular_ior=1.41,
        subsurface_weight=1.0, subsurface_color=hex_to_linear("#EFE7D8"), subsurface_radius=1.6,
        subsurface_radius_scale=(1.0, 0.8, 0.6),
    ),
    _sample(
        "lit-green", "Lit, green", "glow", "#0E2A14", specular_roughness=0.2,
        emission_luminance=900.0, emission_color=hex_to_linear("#3DF06A"),
    ),
]
# fmt: on

SHELF: dict[str, Appearance] = {sample.id: sample for sample in _samples}

NEUTRAL = _sample("neutral", "Neutral", "neutral", "#B9B7B2", specular_roughness=0.42)


@lru_cache(maxsize=4096)
def from_cad(
    color: tuple[float, float, float], opacity: float = 1.0, pictures: tuple[tuple[TextureTarget, str], ...] = ()
) -> Appearance:
    """What a colour of the CAD file looks like: a satin plastic, or a clear tinted solid when it is see-through.

    CAD colours are chosen to tell parts apart and reach pure primaries, which no pigment does; they are held
    inside what paint can reach (linear reflectance 0.015 to 0.82). `pictures` are those of a mesh file: what each
    drives, and its content hash.
    """
    red, green, blue = (min(max(channel, 0.015), 0.82) for channel in color)
    text = "cad-" + "".join(f"{round(channel * 255):02x}" for channel in (*color, opacity))
    if opacity < 0.9:
        params = OpenPBR(
            base_color=(red, green, blue),
            specular_roughness=0.02,
            transmission_weight=1.0,
            transmission_color=tuple(max(channel, 0.05) for channel in color),
            transmission_depth=12.0,
        )
    else:
        params = OpenPBR(base_color=(red, green, blue), specular_roughness=0.4)
    textures = tuple(Texture(picture=picture, target=target) for target, picture in pictures)
    if textures:
        text += "-" + hashlib.sha256(repr(pictures).encode()).hexdigest()[:12]
    return Appearance(id=text, name="from CAD", family="from CAD", params=params, textures=textures)
