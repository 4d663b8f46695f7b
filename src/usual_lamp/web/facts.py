"""Facts of the core that the front end needs before it has asked anything: generated, so that they stand once."""

from __future__ import annotations

import json
from typing import Any, get_args

from usual_lamp.core.appearance.openpbr import CONDUCTORS
from usual_lamp.core.camera import FILM_WIDTH, MOST_SHIFT
from usual_lamp.core.camera.crop import LEAST_PIXELS, MOST_PIXELS
from usual_lamp.core.camera.exposure import exposure_scale
from usual_lamp.core.decals.drawings import DRAWINGS, INKS
from usual_lamp.core.decals.fonts import SHIPPED
from usual_lamp.core.intake.formats import BUNDLES, EXACT, MESHES, SIDE_FILES, UNITLESS, UPWARDS, Unit, Up
from usual_lamp.core.light.sun import TOWNS, SunTime
from usual_lamp.core.light.surroundings import LUMINANCE, REFERENCE_EV
from usual_lamp.core.picture.finished import LOOKED_AT
from usual_lamp.core.picture.finishing import GREY
from usual_lamp.core.picture.judging import RAMP
from usual_lamp.core.picture.tone import HABLE, HABLE_BIAS, HABLE_WHITE
from usual_lamp.core.quality import CLEAN, SAMPLES, Quality
from usual_lamp.core.scene.decal import DecalFinish
from usual_lamp.core.scene.document import Floor, PartState
from usual_lamp.core.scene.shot import PURPOSES
from usual_lamp.service.still_layers import LayerGroup


def facts() -> dict[str, tuple[str, Any]]:
    """By name: what it is, and the value."""
    return {
        "EXACT": ("Endings of files with exact surfaces, tessellated when they are imported.", [*EXACT]),
        "MESHES": ("Endings of files that hold triangles.", [*MESHES]),
        "BUNDLES": ("Endings of files that hold several.", [*BUNDLES]),
        "SIDE_FILES": ("Endings of what such files refer to.", [*SIDE_FILES]),
        "UNITLESS": ("Endings of files whose numbers have no unit.", sorted(UNITLESS)),
        "UPWARDS": ("The axis that most writers of a format have upwards, where it does not say.", UPWARDS),
        "UNITS": ("Units of a file.", [*get_args(Unit)]),
        "UPS": ("Axes that may point up in a file.", [*get_args(Up)]),
        "SAMPLES": ("Samples a pixel of each quality.", SAMPLES),
        "CLEAN": ("Noise that is not seen after denoising, a share.", CLEAN),
        "QUALITIES": ("Qualities of a still.", [*get_args(Quality)]),
        "LAYER_GROUPS": ("Groups of layers of an OpenEXR file.", [*get_args(LayerGroup)]),
        "PART_STATES": ("States of a part that is not shown.", [*get_args(PartState)]),
        "CONDUCTORS": ("Metals by measured n and k.", CONDUCTORS),
        "LOOKED_AT": (
            "Pixels on a side beyond which a still is shown smaller.",
            LOOKED_AT,
        ),
        "PIXELS": ("Least and most on a side of a picture.", [LEAST_PIXELS, MOST_PIXELS]),
        "PURPOSES": ("What a picture is for, and its pixels.", PURPOSES),
        "FILM_WIDTH": ("mm, of the film that focal lengths are for.", FILM_WIDTH),
        "MOST_SHIFT": ("mm, of a lens over that film.", MOST_SHIFT),
        "REFERENCE_EV": ("The exposure at which the lightings are made.", REFERENCE_EV),
        "WHITE_AT_EV_0": ("cd/m² that are recorded as white at EV 0.", 1 / exposure_scale(0.0)),
        "LUMINANCE_RAMP": ("sRGB of luminance in false colours, from dark to bright, even in EV.", RAMP),
        "FLOOR_FINISH": ("The floor as a new lighting has it.", Floor().model_dump()),
        "SUN_TIME": ("When and where the sun is put at first.", SunTime().model_dump()),
        "TOWNS": ("Name, degrees north and east, and hours ahead of UTC without summer time.", TOWNS),
        "FONTS": ("Fonts that drawings are set in, by name.", {name: label for name, (label, _) in SHIPPED.items()}),
        "DRAWINGS": ("Drawings as new ones begin, by kind.", _drawings()),
        "INKS": ("Colours of drawings in finishes that need another than the usual one.", INKS),
        "DECAL_FINISH": ("What a new decal is made of.", DecalFinish().model_dump()),
        "GREY": ("Middle grey, of recorded white: contrast turns about it.", GREY),
        "LUMINANCE": ("Weights of linear Rec. 709 in luminance.", LUMINANCE.tolist()),
        "FILMIC": (
            "The filmic curve: Hable's a to f, his exposure bias, his white.",
            {"curve": HABLE, "bias": HABLE_BIAS, "white": HABLE_WHITE},
        ),
    }


def _drawings() -> dict[str, Any]:
    made = [
        cls.model_validate({"kind": kind}) for cls in DRAWINGS for kind in get_args(cls.model_fields["kind"].annotation)
    ]
    return {drawing.kind: drawing.model_dump() for drawing in made}


def in_typescript() -> str:
    """The module that the front end imports."""
    lines = ["// Generated from the core by `python -m usual_lamp.web.openapi`. Do not edit.", ""]
    for name, (words, value) in facts().items():
        lines += [f"/** {words} */", f"export const {name} = {json.dumps(value)} as const;", ""]
    return "\n".join(lines)
