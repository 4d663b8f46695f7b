"""The shelf: samples made by us, and what a part looks like before anybody gave it anything.

Normal-incidence reflectances of metals are handbook values for polished samples (from memory of optical
tables, rounded); roughness, paints and plastics are chosen by eye on the finish plate. Where a metal is measured, its
colour is what the shaded picture shows of it. Heights of surface textures are common practice, no published source.
"""

from __future__ import annotations

import hashlib
from functools import lru_cache

from usual_lamp.core.appearance.openpbr import Appearance, Family, OpenPBR
from usual_lamp.core.appearance.samples import WORDS, all_samples, sample
from usual_lamp.core.appearance.texture import Texture, TextureTarget

Stated = float | bool | tuple[float, ...]
FAMILIES: tuple[Family, ...] = (
    "metal", "plastic", "paint", "glass", "rubber", "wood", "fabric", "stone", "paper", "glow",
)  # fmt: skip
SHELF: dict[str, Appearance] = {appearance.id: appearance for appearance in all_samples()}
SYNONYMS: dict[str, str] = {name: WORDS[name] for name in SHELF}
"""Other words that a sample is sought by, by id."""

NEUTRAL = sample("neutral", "Neutral", "neutral", "#B9B7B2", specular_roughness=0.42)


@lru_cache(maxsize=4096)
def from_cad(
    color: tuple[float, float, float],
    opacity: float = 1.0,
    pictures: tuple[tuple[TextureTarget, str], ...] = (),
    finish: tuple[tuple[str, Stated], ...] = (),
) -> Appearance:
    """What a colour of the CAD file looks like: a satin plastic, or a clear tinted solid when it is see-through.

    CAD colours are chosen to tell parts apart and reach pure primaries, which no pigment does; they are held
    inside what paint can reach (linear reflectance 0.015 to 0.82). `pictures` are those of a mesh file: what each
    drives, and its content hash; `finish` are OpenPBR parameters that it states.
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
    if finish:
        params = OpenPBR.model_validate(params.model_dump() | {"base_color": color} | dict(finish))
    textures = tuple(Texture(picture=picture, target=target) for target, picture in pictures)
    if textures or finish:
        text += "-" + hashlib.sha256(repr((pictures, finish)).encode()).hexdigest()[:12]
    return Appearance(id=text, name="from CAD", family="from CAD", params=params, textures=textures)
