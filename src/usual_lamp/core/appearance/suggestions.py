"""Which sample of the shelf a name of the trade asks for, and what it looks like in the colour that CAD gave."""

from __future__ import annotations

import re

import numpy as np

from usual_lamp.core.appearance.color_difference import ciede2000, linear_to_lab
from usual_lamp.core.appearance.openpbr import Appearance, Color, linear_to_hex

WORDS: list[tuple[str, str]] = [
    (r"powder|pulver", "powder-slate"),
    (r"brushed", "steel-brushed"),
    (r"chrom(e|ed|ium)\b", "chrome-plated"),
    (r"anodi[sz]ed|eloxal", "anodised-orange"),
    (r"blasted|en ?ac-?\d*|alumin(i)?um|\balu?\b|en ?aw", "aluminium-blasted"),
    (r"gold", "gold-plated"),
    (r"brass|cuzn|messing|ms58", "brass-turned"),
    (r"copper|\bcu\b|cu-?etp|kupfer", "copper-bare"),
    (r"titan", "titanium-tinted"),
    (r"steel|stahl|inox|stainless|1\.4\d{3}|dc0\d|screw|bolt|nut\b|washer|\b8\.8\b", "steel-machined"),
    (r"polycarbonate|\bpc\b|pmma|acryl|glass|clear|transparent", "polycarbonate-clear"),
    (r"silicone|silikon", "silicone-milky"),
    (r"rubber|epdm|nbr|viton|fkm|o-?ring|gasket|seal|gummi", "rubber-black"),
    (r"soft[- ]?touch|tpe|tpu", "soft-touch"),
    (r"(abs|pa6|pa66|nylon|pp|pe|pom|delrin|peek|plastic).*(white|light)", "abs-light"),
    (r"\babs\b|pa ?6|nylon|\bpp\b|\bpe\b|\bpom\b|delrin|peek|plastic", "abs-graphite"),
    (r"paint|lacquer|ral ?\d{4}", "paint-red"),
    (r"led\b|lit\b", "lit-green"),
]
"""Patterns to samples; the first that fits decides, so finishes stand before what they are put on."""


SAME = 6.0
"""Difference in CIEDE2000 below which a sample counts as being of the CAD colour already."""


METAL_LIGHTNESS, METAL_CHROMA = 50.0, 30.0
"""CIELAB: how far in L*, and in the plane of a* and b*, a CAD colour may lie from a metal's own and still mean it."""


def in_color(sample: Appearance, color: Color, dyed: Appearance | None = None) -> Appearance:
    """The sample in a colour (linear) that CAD gave, as a new appearance; itself where it has that colour already.

    Bare metal has the colour of the metal, whatever CAD gave to tell parts apart; on aluminium a colour that is none of
    a metal is taken for an anodised skin (`dyed`). What glows keeps its luminance, in the colour's hue; what is clear
    is tinted.
    """
    params = sample.params
    if sample.family == "metal" and params.base_metalness > 0.99:
        bare, given = linear_to_lab(np.array([params.base_color, color]))
        is_bare = abs(bare[0] - given[0]) < METAL_LIGHTNESS and np.hypot(*(bare - given)[1:]) < METAL_CHROMA
        return sample if is_bare or dyed is None or not sample.id.startswith("aluminium") else in_color(dyed, color)
    glows, is_clear = params.emission_luminance > 0, params.transmission_weight > 0.5
    own = params.emission_color if glows else params.transmission_color if is_clear else params.base_color
    one, two = linear_to_lab(np.array([own, color]))
    if ciede2000(one[None], two[None])[0] < SAME:
        return sample
    change: dict[str, object] = {"base_color": color}
    if glows:
        peak = max(*color, 1e-3)
        change = {
            "emission_color": tuple(min(c / peak, 1.0) for c in color),
            "base_color": tuple(c * 0.1 for c in color),
        }
    elif is_clear:
        change |= {"transmission_color": color, "transmission_depth": params.transmission_depth or CLEAR_DEPTH}
    elif params.subsurface_weight > 0:
        change |= {"subsurface_color": color}
    shown = linear_to_hex(color)
    return sample.model_copy(
        update={
            "id": f"{sample.id}-{shown[1:].lower()}",
            "name": f"{sample.name.split(',')[0]}, {shown}",
            "params": params.model_copy(update=change),
        }
    )


CLEAR_DEPTH = 3.0
"""mm of a clear body in which it takes on the colour that CAD gave it."""


def suggestion(*names: str | None) -> str | None:
    """A sample's id for the first of the names that says something; materials go before part names."""
    for name in filter(None, names):
        for pattern, sample in WORDS:
            if re.search(pattern, name, re.IGNORECASE):
                return sample
    return None
