"""First finish plates of the shelf, which come with the program: small, so that nobody waits for a tracer.

`first_plates.zip` holds a WebP for each, named by the parameters that it shows. `python -m demo.first_plates` traces
those that are missing. An engine that draws a little otherwise needs no new ones: fine plates take their place.
"""

from __future__ import annotations

import hashlib
import zipfile
from functools import cache
from pathlib import Path

from usual_lamp.core.appearance.openpbr import Appearance

FILE = Path(__file__).with_suffix(".zip")


def plate_name(appearance: Appearance) -> str:
    """Name of an appearance's plate in the file, from all that shows: parameters and pictures."""
    text = appearance.params.model_dump_json() + "".join(texture.model_dump_json() for texture in appearance.textures)
    return hashlib.sha256(text.encode()).hexdigest()[:32] + ".webp"


def first_plate(appearance: Appearance) -> bytes | None:
    """The plate of an appearance as WebP, None if it is none of the shelf's."""
    return _plates().get(plate_name(appearance))


@cache
def _plates() -> dict[str, bytes]:
    with zipfile.ZipFile(FILE) as file:
        return {name: file.read(name) for name in file.namelist()}
