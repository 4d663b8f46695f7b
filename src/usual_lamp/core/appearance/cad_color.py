"""What CAD's colour says of a part whose sample is known: a colour of its own, a plating, or only a mark."""

from __future__ import annotations

import numpy as np

from usual_lamp.core.appearance.color_difference import ciede2000, lab_to_linear, linear_to_lab
from usual_lamp.core.appearance.openpbr import Appearance, Color
from usual_lamp.core.appearance.shelf import SHELF
from usual_lamp.core.appearance.suggestions import in_color

COLOURED = ("paint", "plastic", "glow", "fabric")
"""Families whose colour is what CAD says."""
GREY, MOST_CHROMA = 7.0, 58.0
"""CIELAB chroma: below the first a colour is grey; above the second no pigment of plastics and paints is (common
practice, no published source: the strongest of the RAL colours lie near it, a screen's green at 119)."""
STRONG = 45.0
"""Chroma from which on a pigment sends back less light the stronger it is (by eye)."""
DARK = 35.0
"""CIELAB lightness below which a fastener is blackened, and a part of a connector moulded."""
GOLDEN = (62.0, 102.0)
"""CIELAB hue in degrees of gold, brass and yellow zinc as CAD draws them: brass itself lies at 88, an orange-yellow
screen colour at 76 (by eye)."""
HOUSED = ("matt-black",)
"""Samples of housings of motors and gearboxes; what is grey of those is a shaft or a flange (common practice)."""
BRIGHT, WHITE = 68.0, 90.0
"""CIELAB lightness above which a bare metal is aluminium rather than steel, and a grey part white."""
BOARDS = ("board-green", "board-blue", "board-red", "board-black", "board-white")
AS_DARK = {
    "zinc-plated": "steel-black",
    "steel-polished": "steel-black",
    "steel-machined": "steel-black",
    "steel-turned": "steel-black",
    "aluminium-machined": "anodised-black",
}
"""And where CAD draws it dark."""
PAINTED = {"iron-cast": GREY, "aluminium-machined": 3 * GREY, "steel-brushed": 3 * GREY}
"""Metals of castings, plates and sheet, and from which chroma on they are painted (common practice)."""
AS_GOLDEN = {
    "zinc-plated": "zinc-yellow",
    "steel-polished": "brass-polished",
    "steel-machined": "brass-turned",
    "steel-turned": "brass-turned",
    "nickel-plated": "brass-polished",
}
"""What a metal that a name or a shape lets one guess is where CAD draws it golden (common practice)."""


def in_cad_color(sample: Appearance, color: Color | None, guessed: bool) -> tuple[Appearance, str]:
    """The sample as CAD's colour (linear) has it, and what to say of that; unchanged where its kind has no other.

    `guessed` says that a name or shape led to the sample, not a stated material or finish: then the colour may choose
    between metals, too.
    """
    if color is None:
        return sample, ""
    lab = linear_to_lab(np.array([color]))[0]
    chroma = float(np.hypot(*lab[1:]))
    if sample.id in BOARDS:
        return _board(lab, chroma), ", in the nearest colour of solder masks"
    if guessed and sample.id in PAINTED and chroma > PAINTED[sample.id] and not _is_golden(lab, chroma):
        return in_color(SHELF["satin-grey"], as_real(color)), ", painted, in the colour from CAD"
    other = _other_metal(sample.id, lab, chroma) if guessed else None
    if other is not None:
        return other
    if sample.family in COLOURED or (sample.id.startswith("rubber") and chroma > 2 * GREY):
        return in_color(sample, as_real(color)), ", in the colour from CAD"
    if sample.id == "anodised-natural" and chroma > 2 * GREY:
        return in_color(SHELF["anodised-orange"], as_real(color)), ", in the colour from CAD"
    if sample.family == "metal" and chroma > 3 * GREY and not _is_golden(lab, chroma):
        return sample, "; the colour from CAD is only a mark"
    if sample.id == "polycarbonate-clear" and chroma > 2 * GREY:
        return in_color(sample, color), ", tinted as in CAD"
    return sample, ""


def _is_golden(lab: np.ndarray, chroma: float) -> bool:
    hue = float(np.degrees(np.arctan2(lab[2], lab[1])))
    return GOLDEN[0] <= hue <= GOLDEN[1] and chroma > 3.5 * GREY and lab[0] > 50.0


def _other_metal(sample: str, lab: np.ndarray, chroma: float) -> tuple[Appearance, str] | None:
    """Another metal, or plastic, for what was taken for one by its name or shape alone."""
    if _is_golden(lab, chroma):
        if sample in AS_GOLDEN:
            return SHELF[AS_GOLDEN[sample]], ", golden in CAD"
        return None
    if sample in AS_DARK and chroma < GREY and lab[0] < DARK:
        return SHELF[AS_DARK[sample]], ", dark in CAD"
    if sample in HOUSED and chroma < GREY and DARK < lab[0] < WHITE:
        bare = "aluminium-machined" if lab[0] > BRIGHT else "steel-machined"
        return SHELF[bare], ", grey in CAD, so bare metal"
    if sample in ("gold-plated", "nickel-plated") and chroma < GREY:
        if lab[0] < DARK:
            return SHELF["abs-graphite"], ", dark in CAD, so moulded"
        if sample == "gold-plated":
            return SHELF["tin-plated"], ", grey in CAD"
    return None


def _board(lab: np.ndarray, chroma: float) -> Appearance:
    """The nearest of the colours that solder masks have; by hue, since CAD draws them brighter than they are."""
    if chroma < GREY:
        return SHELF["board-white" if lab[0] > 60 else "board-black"]
    own = {board: linear_to_lab(np.array([SHELF[board].params.base_color]))[0] for board in BOARDS[:3]}
    dull = np.array([own["board-green"][0], *(lab[1:] * 30.0 / chroma)])
    return SHELF[min(own, key=lambda board: float(ciede2000(dull[None], own[board][None])[0]))]


def as_real(color: Color) -> Color:
    """A colour of CAD at a chroma that plastics and paints have, with its hue; black and white are not quite."""
    light, a, b = linear_to_lab(np.array([color]))[0]
    chroma = float(np.hypot(a, b))
    light = float(np.clip(light, 14.0, 94.0))
    scale = min(1.0, MOST_CHROMA / max(chroma, 1e-9))
    # Saturated screen colours are brighter than any pigment of their hue.
    light = min(light, 94.0 - 0.5 * max(0.0, chroma - STRONG))
    for _ in range(24):
        found = lab_to_linear(np.array([[light, a * scale, b * scale]]))[0]
        if found.min() >= 0.004 and found.max() <= 0.9:
            break
        scale *= 0.94
    r, g, b = (float(np.clip(v, 0.004, 0.9)) for v in found)
    return round(r, 4), round(g, 4), round(b, 4)
