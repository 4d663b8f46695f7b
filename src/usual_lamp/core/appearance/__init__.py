"""How surfaces look: OpenPBR Surface parameters and the shelf of samples."""

from usual_lamp.core.appearance.openpbr import Appearance, OpenPBR, hex_to_linear, linear_to_hex
from usual_lamp.core.appearance.shelf import FAMILIES, NEUTRAL, SHELF, SYNONYMS, from_cad

__all__ = [
    "FAMILIES",
    "NEUTRAL",
    "SHELF",
    "SYNONYMS",
    "Appearance",
    "OpenPBR",
    "from_cad",
    "hex_to_linear",
    "linear_to_hex",
]
