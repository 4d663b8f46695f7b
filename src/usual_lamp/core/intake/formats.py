"""Which files can be taken in, and what they leave open. No reader is needed to know this, so this imports none."""

from __future__ import annotations

from typing import Literal

from usual_lamp.core.numbers_in_words import said_to
from usual_lamp.core.sandbox.unusable import Unusable

EXACT = {
    ".step": "STEP", ".stp": "STEP", ".p21": "STEP", ".iges": "IGES", ".igs": "IGES", ".brep": "BREP", ".brp": "BREP",
}  # fmt: skip
"""With exact surfaces, tessellated here."""
MESHES = {
    ".stl": "STL", ".ply": "PLY", ".off": "OFF", ".obj": "OBJ", ".glb": "glTF", ".gltf": "glTF", ".3mf": "3MF",
    ".dae": "Collada",
}  # fmt: skip
"""Triangles already."""
BUNDLES = {".zip": "a ZIP of these"}
"""With the side files that a format has."""
SUFFIXES = {**EXACT, **MESHES, **BUNDLES}
SIDE_FILES = (".mtl", ".png", ".jpg", ".jpeg", ".bin")
"""What files refer to, and comes with them."""
UPWARDS = {".obj": "y", ".stl": "z", ".ply": "z", ".off": "z", ".3mf": "z", ".zip": "z"}
"""The axis that most writers of a format have upwards, where the format does not say."""
UNITLESS = {".stl", ".ply", ".off", ".obj", ".brep", ".brp"}
"""Formats in which a number is just a number: millimetres unless one says otherwise."""


class UnreadableFile(Unusable):
    """The file cannot be taken in; the message says why and what to do."""


Unit = Literal["as written", "mm", "cm", "m", "inch"]
Up = Literal["as written", "z", "y"]
MILLIMETRES: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "inch": 25.4}


def in_words() -> str:
    """Return the formats that can be imported, as the rest of a sentence."""
    names = list(dict.fromkeys(SUFFIXES.values()))
    return ", ".join(names[:-1]) + f" or {names[-1]}"


LARGEST_REACH = 1e8
"""mm: what lies farther out cannot be drawn."""
SMALLEST, LARGEST = 1.0, 30_000.0
"""mm; what is designed as an assembly is seldom smaller or larger."""


def doubt_of_unit(size: tuple[float, float, float]) -> str | None:
    """Words for a size (mm) that makes one ask whether the unit is right; None for a usual one."""
    longest = max(size)
    if longest > LARGEST:
        return (
            f"This would be {longest / 1000:.0f} m long. If that is too large, select the unit it was drawn in, below."
        )
    if 0 < longest < SMALLEST:
        return f"This would be {said_to(longest)} long. If that is too small, select the unit it was drawn in, below."
    return None
