"""Which sample of the shelf a material's or part's name asks for, by the words of the trade in it."""

from __future__ import annotations

import re

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


def suggestion(*names: str | None) -> str | None:
    """A sample's id for the first of the names that says something; materials go before part names."""
    for name in filter(None, names):
        for pattern, sample in WORDS:
            if re.search(pattern, name, re.IGNORECASE):
                return sample
    return None
